"""An offer and its answer; what the answer asks of the sender."""

import asyncio
import contextlib
import re

import anyio
import pytest
from aiortc import AudioStreamTrack, RTCPeerConnection, RTCRtpSender, RTCSessionDescription, VideoStreamTrack

from cartouche.core.guests.networks import is_near
from cartouche.live import whip
from cartouche.live.camera_feed import CameraFeed
from cartouche.live.errors import UnusableOffer
from cartouche.live.troubles import Troubles
from cartouche.live.whip import MAX_CANDIDATES, MAX_KBIT_S, MAX_PARTS, MIN_KBIT_S, WhipSession, bounded, with_bit_rates, without_far
from cartouche.web.guests.door import networks_here
from tests.helpers import ran


def test_what_only_the_phone_knows_and_what_is_not_near_is_left_out() -> None:
    lines = [
        "a=candidate:1 1 udp 2113937151 0b1c.local 51000 typ host",
        "a=candidate:2 1 udp 2113937151 10.0.0.7 51001 typ host",
        "a=mid:0",
        "a=end-of-candidates",
    ]
    far = [f"a=candidate:3 1 udp 1 {address} 51002 typ host" for address in ("127.0.0.1", "10.9.9.9", "8.8.8.8", "::1", "224.0.0.1", "x")]
    far.append("a=candidate:short")
    near = lambda address: is_near(address, "10.0.0.7", [("10.0.0.2", 24)])  # noqa: E731
    assert without_far("\r\n".join([*lines, *far]) + "\r\n", near) == "\r\n".join(lines[1:3]) + "\r\n"


def test_the_answer_names_its_bit_rates_for_pictures_alone() -> None:
    line = "c=IN IP4 0.0.0.0\r\n"
    sdp = f"v=0\r\nm=audio 9 RTP 111\r\n{line}a=fmtp:111 x=1\r\nm=video 9 RTP 96\r\n{line}a=fmtp:96 profile-level-id=42e01f\r\n"
    made = with_bit_rates(sdp)
    assert made.count(f"b=AS:{MAX_KBIT_S}") == 1
    assert made.index("b=AS") > made.index("m=video")
    assert f"profile-level-id=42e01f;x-google-start-bitrate=4000;x-google-min-bitrate={MIN_KBIT_S}" in made
    assert "a=fmtp:111 x=1\r\n" in made


@pytest.mark.parametrize(
    ("line", "most"), [("m=video 9 RTP 96", MAX_PARTS), ("a=candidate:1 1 udp 1 10.0.0.7 51000 typ host", MAX_CANDIDATES)]
)
def test_an_offer_of_a_thousand_parts_is_refused_before_it_is_read(line: str, most: int) -> None:
    assert bounded(f"{line}\r\n" * most)
    with pytest.raises(ValueError, match=f"more than {most}"):
        bounded(f"{line}\r\n" * (most + 1))

    async def refused() -> float:
        feed = CameraFeed("phone", lambda *_: None, Troubles())
        begun = asyncio.get_running_loop().time()
        with pytest.raises(UnusableOffer, match="more than"):
            await WhipSession(feed, lambda _: None).answer(f"v=0\r\n{line}\r\n" + f"{line}\r\n" * 900)
        feed.close()
        return asyncio.get_running_loop().time() - begun

    assert ran(refused()) < 1.0


@pytest.mark.parametrize(("codec", "hides"), [("video/H264", False), ("video/VP8", False), ("video/VP8", True)])
def test_a_sender_arrives_as_a_feed(codec: str, hides: bool) -> None:
    """By a real connection over this computer's own address. hides: its own addresses behind names, as browsers do."""
    if not networks_here():
        pytest.skip("WebRTC needs an address besides loopback")
    came: list[tuple[float, float]] = []

    async def run() -> None:
        feed = CameraFeed("phone", lambda _, frame: came.append((frame.size.width, float(frame.y.mean()))), Troubles())
        session, sender = WhipSession(feed, lambda _: None), RTCPeerConnection()
        transceiver = sender.addTransceiver(VideoStreamTrack(), "sendonly")
        codecs = RTCRtpSender.getCapabilities("video").codecs
        transceiver.setCodecPreferences([one for one in codecs if one.mimeType == codec])
        await sender.setLocalDescription(await sender.createOffer())
        offer = sender.localDescription.sdp
        assert "a=end-of-candidates" in offer
        if hides:
            offer = re.sub(r"(a=candidate:\S+ \d udp \d+) \S+", r"\1 9c1f.local", offer)
        answer = await session.answer(offer)
        assert any(f" {network.address} " in answer for network in networks_here())
        await sender.setRemoteDescription(RTCSessionDescription(answer, "answer"))
        for _ in range(300):
            if came:
                break
            await asyncio.sleep(0.05)
        assert session.is_open
        await sender.close()
        await session.close()
        await session.close()
        assert not session.is_open
        feed.close()

    ran(run())
    assert came[0][0] == 640


def test_a_sender_that_never_comes_through_is_given_up(monkeypatch: pytest.MonkeyPatch) -> None:
    """The library would look for a way for ever."""
    monkeypatch.setattr(whip, "CONNECTS_WITHIN_S", 0.5)

    async def run() -> None:
        feed, sender = CameraFeed("phone", lambda *_: None, Troubles()), RTCPeerConnection()
        session = WhipSession(feed, lambda *_: None)
        sender.addTransceiver(VideoStreamTrack(), "sendonly")
        await sender.setLocalDescription(await sender.createOffer())
        offer = sender.localDescription.sdp
        await sender.close()  # nobody is there any more
        await session.answer(offer)
        assert session.is_open
        async with asyncio.timeout(20):
            while session.is_open:
                await asyncio.sleep(0.05)
        feed.close()

    ran(run())


@pytest.mark.skipif(not networks_here(), reason="WebRTC needs an address besides loopback")
def test_a_piece_of_sound_that_fails_is_not_the_last() -> None:
    heard: list[int] = []

    def odd_at_first(first: int, block: object) -> None:
        heard.append(first)
        if len(heard) < 3:
            raise RuntimeError("odd")

    async def run() -> None:
        troubles = Troubles()
        feed, sender = CameraFeed("phone", lambda *_: None, troubles), RTCPeerConnection()
        session = WhipSession(feed, odd_at_first)
        sender.addTransceiver(VideoStreamTrack(), "sendonly")
        sender.addTrack(AudioStreamTrack())
        await sender.setLocalDescription(await sender.createOffer())
        await sender.setRemoteDescription(RTCSessionDescription(await session.answer(sender.localDescription.sdp), "answer"))
        async with asyncio.timeout(20):
            while len(heard) < 8:
                await asyncio.sleep(0.05)
        await sender.close()
        await session.close()
        feed.close()
        assert troubles.count("mix") == 2

    ran(run())


def test_an_offer_without_a_picture_is_refused() -> None:
    async def run() -> None:
        feed = CameraFeed("phone", lambda *_: None, Troubles())
        sender = RTCPeerConnection()
        sender.addTransceiver("audio")
        await sender.setLocalDescription(await sender.createOffer())
        with pytest.raises(UnusableOffer, match="no picture is offered"):
            await WhipSession(feed, lambda _: None).answer(sender.localDescription.sdp)
        await sender.close()
        feed.close()

    ran(run())


def test_half_an_offer_is_hung_up_and_hanging_up_again_waits_for_nothing() -> None:
    """The library closes no connection whose offer broke off in its middle, and a second time it waits for ever."""

    async def run() -> None:
        feed, sender = CameraFeed("phone", lambda *_: None, Troubles()), RTCPeerConnection()
        sender.addTransceiver("video", "sendonly")
        await sender.setLocalDescription(await sender.createOffer())
        whole = sender.localDescription.sdp
        await sender.close()
        for broken in (whole.replace("a=fingerprint", "a=fingerprin"), whole.replace("a=setup:actpass", "a=setup:x"), whole[:-400]):
            session = WhipSession(feed, lambda *_: None)
            with contextlib.suppress(UnusableOffer):
                await session.answer(broken)
            for _ in range(2):
                await asyncio.wait_for(session.close(), 5)
        feed.close()

    ran(run())


def test_whose_line_is_ended_while_it_hangs_up_leaves_no_socket() -> None:
    """A scope that is cancelled cancels each wait within it, those of an end as well."""

    async def run() -> None:
        feed, sender = CameraFeed("phone", lambda *_: None, Troubles()), RTCPeerConnection()
        sender.addTransceiver("video", "sendonly")
        await sender.setLocalDescription(await sender.createOffer())
        session = WhipSession(feed, lambda *_: None)
        await session.answer(sender.localDescription.sdp)
        ice = [transceiver.receiver.transport.transport for transceiver in session._connection.getTransceivers()]

        begun = anyio.Event()

        async def line() -> None:
            begun.set()
            try:
                await anyio.sleep_forever()
            finally:
                await session.close()

        async with anyio.create_task_group() as group:
            group.start_soon(line)
            await begun.wait()
            group.cancel_scope.cancel()
        assert [transport.state for transport in ice] == ["closed"]
        assert not ice[0].iceGatherer.getLocalCandidates(), "its sockets are closed"
        await sender.close()
        feed.close()

    ran(run())
