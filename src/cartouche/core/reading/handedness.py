"""How many reflections lie between the paper and each audience, and whether it therefore reads true.

A picture is left- or right-handed: an odd number of reflections reverses it whatever turns lie between, an even
number restores it (the determinant of a product is the product of the determinants).
"""

from dataclasses import dataclass

from cartouche.core.straighten.chain import Chain


@dataclass(frozen=True, slots=True)
class Reflections:
    """One stage of the light path: where, how many reflections, in words."""

    where: str
    count: int
    words: str


@dataclass(frozen=True, slots=True)
class LightPath:
    """All stages from paper to one audience.

    page_true: what the page's own print says of it as the chain leaves it, None where it cannot tell. It outweighs the count.
    """

    stages: tuple[Reflections, ...]
    page_true: bool | None = None

    @property
    def count(self) -> int:
        return sum(stage.count for stage in self.stages)

    @property
    def counted_true(self) -> bool:
        return self.count % 2 == 0

    @property
    def reads_true(self) -> bool:
        if self.page_true is None:
            return self.counted_true
        after_chain = sum(stage.count for stage in self.stages if stage.where == "call")
        return self.page_true == (after_chain % 2 == 0)


def page_true_under(chain: Chain, read_under: Chain | None, reads_true: bool | None) -> bool | None:
    """What print that was read under one chain says under another: flips count, turns and corners do not."""
    if read_under is None or reads_true is None:
        return None
    return reads_true == ((chain.flips - read_under.flips) % 2 == 0)


def light_path(rig_mirrors: int, device_flips: int, chain: Chain, call_flips: int, page_true: bool | None = None) -> LightPath:
    """Count reflections from paper to audience.

    rig_mirrors: mirrors in the rig.  device_flips: flips the device makes by itself.  call_flips: 1 for a self-view.
    Raises ValueError for a negative count.
    """
    if min(rig_mirrors, device_flips, call_flips) < 0:
        raise ValueError("reflections are counted from nought")
    return LightPath(
        (
            Reflections("rig", rig_mirrors, _mirrors(rig_mirrors)),
            Reflections("device", device_flips, "the device flips its picture" if device_flips else "the device flips nothing"),
            Reflections("chain", chain.flips, _flips(chain)),
            Reflections("call", call_flips, "the call mirrors this view" if call_flips else "the call flips nothing"),
        ),
        page_true,
    )


def _mirrors(count: int) -> str:
    return {0: "no mirror in the rig", 1: "one mirror in the rig"}.get(count, f"{count} mirrors in the rig")


def _flips(chain: Chain) -> str:
    if not chain.flips:
        return "no flip set here"
    ways = [name for name, on in (("left-right", chain.mirror.left_right), ("top-bottom", chain.mirror.top_bottom)) if on]
    return f"flipped here {' and '.join(ways)}"
