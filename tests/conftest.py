import gc
from collections.abc import Iterator

import pytest
from hypothesis import HealthCheck, settings

from tests.sessions import shared_alike

settings.register_profile("busy", deadline=None, suppress_health_check=[HealthCheck.too_slow])  # how quick it is, is for benchmarks/
settings.load_profile("busy")


@pytest.fixture(scope="session", autouse=True)
def sessions_share_alike() -> Iterator[None]:
    with shared_alike():
        yield


@pytest.fixture(scope="session", autouse=True)
def what_is_left_open_is_found_in_a_test() -> Iterator[None]:
    yield
    gc.collect()  # found after the last test it would fail a run in which no test failed, and none could be run again
