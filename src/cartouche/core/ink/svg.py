"""Ink out and in as SVG 1.1 in the page's units: what we write any drawing program shows, and what we wrote we read again."""

import re
from collections.abc import Sequence
from xml.etree import ElementTree

from defusedxml.common import DefusedXmlException
from defusedxml.ElementTree import ParseError, fromstring

from cartouche.core.errors import CartoucheError
from cartouche.core.ink.strokes import MAX_POINTS, MAX_STROKES, Stroke
from cartouche.core.pictures import Size

SVG = "http://www.w3.org/2000/svg"
MAX_BYTES = 5_000_000


class UnreadableInk(CartoucheError, ValueError):
    sentence = "This file holds no ink that Cartouche can read ({why}). Choose an SVG with lines that were saved here."

    def __init__(self, why: str) -> None:
        self.why = why
        super().__init__(why)


def to_svg(strokes: Sequence[Stroke], page: Size, unit: str) -> bytes:
    """page: its size, in `unit` ('mm' or 'share')."""
    ElementTree.register_namespace("", SVG)
    size = {"width": f"{page.width:.3f}mm", "height": f"{page.height:.3f}mm"} if unit == "mm" else {}
    root = ElementTree.Element(f"{{{SVG}}}svg", {"viewBox": f"0 0 {page.width:.4f} {page.height:.4f}", **size})
    for stroke in strokes:
        path = " ".join(
            f"{'M' if at == 0 else 'L'}{x:.3f} {y:.3f}" for part in stroke.parts() for at, (x, y) in enumerate(part)
        )  # fmt: skip
        looks = {
            "d": path, "fill": "none", "stroke": stroke.colour, "stroke-width": f"{stroke.width:.4f}", "stroke-linecap": "round",
            "stroke-linejoin": "round", "id": stroke.id, "data-tool": stroke.tool,
            "data-points": " ".join(f"{x:.3f},{y:.3f},{pressure:.2f}" for x, y, pressure in stroke.points),
        }  # fmt: skip
        if stroke.tool == "marker":
            looks["style"] = "mix-blend-mode:multiply"
        ElementTree.SubElement(root, f"{{{SVG}}}path", looks)
    return b'<?xml version="1.0" encoding="UTF-8"?>\n' + ElementTree.tostring(root, encoding="unicode").encode()


def from_svg(content: bytes) -> tuple[Stroke, ...]:
    """Paths of straight pieces; those that were written here with their pressure. Raises UnreadableInk."""
    if len(content) > MAX_BYTES:
        raise UnreadableInk("it is larger than 5 MB")
    try:
        root = fromstring(content)
    except (ParseError, DefusedXmlException, ValueError, LookupError) as exc:  # an encoding that nobody knows is a LookupError
        raise UnreadableInk("it is no SVG") from exc
    if not root.tag.endswith("svg"):
        raise UnreadableInk("it is no SVG")
    found: list[Stroke] = []
    for number, path in enumerate(root.iter(f"{{{SVG}}}path")):
        points = _points(path.get("data-points") or "") or _path_points(path.get("d") or "")
        if not points or len(found) >= MAX_STROKES:
            continue
        try:
            found.append(
                Stroke(
                    id=(path.get("id") or f"line-{number}")[:40], tool=path.get("data-tool") or "pen",  # type: ignore[arg-type]
                    colour=path.get("stroke") or "#1D2433", width=float(path.get("stroke-width") or 0.8), points=tuple(points[:MAX_POINTS]),
                )
            )  # fmt: skip
        except ValueError:  # of a colour, width or tool that there is not here
            continue
    if not found:
        raise UnreadableInk("there are no lines in it")
    return tuple(found)


def _points(text: str) -> list[tuple[float, float, float]]:
    try:
        return [(float(x), float(y), float(p)) for x, y, p in (each.split(",") for each in text.split())]
    except ValueError:
        return []


def _path_points(text: str) -> list[tuple[float, float, float]]:
    """Of M and L alone: curves of other programs are passed over."""
    if not re.fullmatch(r"[MLml0-9eE+\-., \t\r\n]*", text):
        return []
    numbers = [float(one) for one in re.findall(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?", text)]
    return [(x, y, 1.0) for x, y in zip(numbers[::2], numbers[1::2], strict=False)]
