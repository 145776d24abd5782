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
    """All stages from paper to one audience."""

    stages: tuple[Reflections, ...]

    @property
    def count(self) -> int:
        return sum(stage.count for stage in self.stages)

    @property
    def reads_true(self) -> bool:
        return self.count % 2 == 0


def light_path(rig_mirrors: int, device_flips: int, chain: Chain, call_flips: int) -> LightPath:
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
        )
    )


def _mirrors(count: int) -> str:
    return {0: "no mirror in the rig", 1: "one mirror in the rig"}.get(count, f"{count} mirrors in the rig")


def _flips(chain: Chain) -> str:
    if not chain.flips:
        return "the chain flips nothing"
    ways = [name for name, on in (("left-right", chain.mirror.left_right), ("top-bottom", chain.mirror.top_bottom)) if on]
    return f"the chain flips {' and '.join(ways)}"
