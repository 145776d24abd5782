"""What is going on, told to every open tab, until all ends."""

import asyncio

import pytest

from cartouche.live.troubles import Troubles
from cartouche.web import news
from cartouche.web.news import LiveNews
from tests.helpers import ran


@pytest.mark.parametrize("later", range(6))
def test_an_end_that_comes_together_with_news_is_not_lost(monkeypatch: pytest.MonkeyPatch, later: int) -> None:
    """later: turns of the loop between the two."""
    monkeypatch.setattr(news, "EVERY_S", 60.0)

    async def told_and_ended() -> bool:
        tells = LiveNews(lambda: "news", Troubles())
        running = asyncio.create_task(tells.run())
        with tells.listening() as listener:
            await listener.newest()
            await asyncio.sleep(2 * news.SOONEST_S)  # it waits for what changes next
            tells.changed()
            for _ in range(later):
                await asyncio.sleep(0)
            running.cancel()
            await asyncio.wait([running], timeout=2.0)
        ended = running.done()
        running.cancel()
        return ended

    assert ran(told_and_ended())
