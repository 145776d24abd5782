from collections.abc import Iterator

import pytest

from tests.sessions import shared_alike


@pytest.fixture(scope="session", autouse=True)
def sessions_share_alike() -> Iterator[None]:
    with shared_alike():
        yield
