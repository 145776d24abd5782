"""Who wants which surface, and which feeds that comes to."""

import threading

import pytest

from cartouche.core.plates.ready_made import FIRST_PLATES
from cartouche.live.demand import OUTGOING, Demand, Surface, Wants
from cartouche.live.feeds import Feed, Feeds
from cartouche.live.setup import Setup
from cartouche.live.troubles import Troubles


@pytest.mark.parametrize("key", ["outgoing", "raw:desk", "page:desk", "plate:p1", "glance:p1", "audience:pinned"])
def test_a_surface_is_read_from_its_key(key: str) -> None:
    surface = Surface.parse(key)
    assert surface is not None
    assert ":".join(filter(None, surface)) == key


@pytest.mark.parametrize("key", ["", "nothing", "outgoing:1", "raw", "RAW:desk", ":x"])
def test_anything_else_is_none(key: str) -> None:
    assert Surface.parse(key) is None


def test_a_claim_holds_until_it_is_released() -> None:
    demand = Demand()
    first, second = demand.claim(OUTGOING), demand.claim(OUTGOING)
    first.release()
    first.release()
    assert OUTGOING in demand.surfaces, "somebody else still holds it"
    second.release()
    assert not demand.surfaces


@pytest.fixture
def feeds() -> Feeds:
    made = Feeds()
    for feed_id in ("page", "face", "other"):
        made.add(Feed(feed_id, lambda *_: None, Troubles()))
    return made


def wanted(feeds: Feeds) -> set[str]:
    return {feed.id for feed in feeds.all() if feed.wanted}


def test_feeds_are_wanted_by_their_own_surfaces_and_by_plates_that_show_them(feeds: Feeds) -> None:
    demand, call = Demand(), [False]
    plates = {plate.id: plate for plate in FIRST_PLATES}
    setup = Setup(plates["page"], plates=plates, roles={"page": "page", "face": "face"})
    wants = Wants(demand, feeds, lambda: setup, lambda: call[0])
    demand.on_change.append(wants.settle)
    raw = demand.claim(Surface("raw", "other"))
    assert wanted(feeds) == {"other"}
    raw.release()
    outgoing = demand.claim(OUTGOING)
    assert wanted(feeds) == {"page"}
    preview = demand.claim(Surface("plate", "face"))
    assert wanted(feeds) == {"page", "face"}
    preview.release()
    outgoing.release()
    audience = demand.claim(Surface("audience", "pinned"))
    assert wanted(feeds) == set(), "no call runs that would show it"
    call[0] = True
    wants.settle()
    assert wanted(feeds) == {"page"}
    audience.release()
    assert wanted(feeds) == set()


def test_settled_from_many_threads_at_once_it_ends_with_the_newest(feeds: Feeds) -> None:
    demand = Demand()
    setup = Setup(FIRST_PLATES[1], roles={"page": "page"})
    wants = Wants(demand, feeds, lambda: setup, lambda: False)
    demand.on_change.append(wants.settle)

    def come_and_go() -> None:
        for _ in range(300):
            demand.claim(OUTGOING).release()

    threads = [threading.Thread(target=come_and_go) for _ in range(6)]
    for thread in threads:
        thread.start()
    stays = demand.claim(OUTGOING)
    for thread in threads:
        thread.join()
    assert wanted(feeds) == {"page"}
    stays.release()
    assert wanted(feeds) == set()
