"""What is lowered where a computer cannot keep up, and when it comes back."""

from itertools import pairwise

from cartouche.core.watch.thrift import DOWN_S, ORDER, SAYS, UP_S, Look, Thrift

SHORT, EASY, BETWEEN = Look(0.97, 18.0, 30.0), Look(0.5, 30.0, 30.0), Look(0.85, 29.0, 30.0)


def looked(thrift: Thrift, look: Look, seconds: float, at_s: float = 0.0) -> float:
    """Once a second for so long; gives the moment after."""
    for second in range(int(seconds)):
        thrift.look(look, at_s + second)
    return at_s + seconds


def test_what_learners_lose_least_goes_first() -> None:
    thrift, levels, now_s = Thrift(), [], 0.0
    for _ in range(40):
        if thrift.look(SHORT, now_s):
            levels.append((now_s, thrift.taken))
        now_s += 1
    assert [taken for _, taken in levels] == [ORDER[:count] for count in range(1, len(ORDER) + 1)]
    assert [at_s for at_s, _ in levels] == [DOWN_S * count for count in range(1, len(ORDER) + 1)]


def test_it_is_said_and_comes_back_last_lowered_first() -> None:
    thrift = Thrift()
    assert thrift.says is None
    now_s = looked(thrift, SHORT, 2 * DOWN_S + 1)
    assert thrift.says is not None
    assert SAYS["audiences"] in thrift.says  # the last of two
    now_s = looked(thrift, EASY, UP_S + 2, now_s)
    assert thrift.taken == ("previews",)
    looked(thrift, EASY, UP_S + 2, now_s)
    assert thrift.taken == ()


def test_each_sentence_fits_the_one_line_of_teach() -> None:
    thrift, now_s = Thrift(), 0.0
    for _ in ORDER:
        now_s = looked(thrift, SHORT, DOWN_S + 1, now_s)
        assert thrift.says is not None
        assert len(thrift.says) <= 62


def test_a_moment_of_load_lowers_nothing() -> None:
    thrift, now_s = Thrift(), 0.0
    for _ in range(20):
        now_s = looked(thrift, SHORT, DOWN_S - 1, now_s)
        now_s = looked(thrift, BETWEEN, 2, now_s)
    assert thrift.level == 0


def test_busy_alone_or_slow_alone_lowers_nothing() -> None:
    for look in (Look(0.99, 29.0, 30.0), Look(0.4, 8.0, 30.0), Look(None, 8.0, 30.0)):
        thrift = Thrift()
        looked(thrift, look, 60)
        assert thrift.level == 0


def test_pictures_that_come_but_late_lower_it_too() -> None:
    for look, level in (
        (Look(0.97, 29.0, 30.0, slow=0.2), 1),
        (Look(0.97, 29.0, 30.0, slow=0.05), 0),
        (Look(0.8, 29.0, 30.0, slow=0.9), 0),
    ):
        thrift = Thrift()
        looked(thrift, look, DOWN_S + 1)
        assert thrift.level == level


def test_a_picture_that_is_small_already_is_not_said_to_be_made_smaller() -> None:
    thrift = Thrift()
    looked(thrift, SHORT._replace(large=False), 2 * len(ORDER) * DOWN_S)
    assert thrift.taken == ORDER[:-1]


def test_what_cannot_be_given_back_is_given_back_later_each_time() -> None:
    thrift, now_s, given = Thrift(), 0.0, list[float]()
    for _ in range(4):
        while thrift.level < 1:
            thrift.look(SHORT, now_s)
            now_s += 1
        begun_s = now_s
        while thrift.level:
            thrift.look(EASY, now_s)
            now_s += 1
        given.append(now_s - begun_s)
    assert all(later > 1.7 * before for before, later in pairwise(given))


def test_nobody_who_takes_it_is_no_hurry() -> None:
    thrift = Thrift()
    now_s = looked(thrift, SHORT, DOWN_S + 1)
    assert thrift.level == 1
    looked(thrift, Look(0.99, 0.0, 0.0), UP_S + 2, now_s)
    assert thrift.level == 0
