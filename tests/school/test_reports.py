"""A hub puts lessons away of which it hears nothing: what it is told arrives, whatever it answers at first."""

import asyncio
from http.client import BadStatusLine

import pytest

from cartouche.school import reports
from tests.helpers import ran


def test_a_report_that_failed_is_sent_again_and_one_that_arrived_is_not(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("JUPYTERHUB_ACTIVITY_URL", "http://127.0.0.1:9/activity")
    monkeypatch.setenv("JUPYTERHUB_API_TOKEN", "token")
    sent: list[str] = []

    def odd_at_first(address: str, token: str) -> None:
        sent.append(address)
        if len(sent) < 3:
            raise BadStatusLine("hello")

    monkeypatch.setattr(reports, "_send", odd_at_first)

    async def run() -> None:
        reporting = asyncio.create_task(reports.report(lambda: 1, every_s=0.01))
        async with asyncio.timeout(20):
            while len(sent) < 3:
                await asyncio.sleep(0.01)
        await asyncio.sleep(0.2)
        assert not reporting.done()
        reporting.cancel()

    ran(run())
    assert len(sent) == 3
