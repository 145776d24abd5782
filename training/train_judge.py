"""Teach the judge (is this quadrilateral the page, all of it and nothing else?) and write it as ONNX: `./run train judge`.

It learns from the quadrilaterals that the finder itself comes upon in drawn views, right ones and wrong ones.
"""

import argparse
import time
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

import cv2
import numpy as np
import onnxruntime
import torch
from torch import Tensor, nn
from torch.utils.data import DataLoader, IterableDataset, get_worker_info

from cartouche.core.errors import DegenerateCorners
from cartouche.core.pictures import frame_from_bgr
from cartouche.core.straighten.geometry import check_quadrilateral
from cartouche.core.straighten.judge import CANVAS, squared
from cartouche.core.straighten.page_map import both, page_map, shrunk
from cartouche.core.straighten.refine import refine_quads
from cartouche.core.straighten.rough_quads import doubled, plain_quads, regions, rough_quads
from training.page_scenes import HEIGHT, WIDTH, Bank, View, view
from training.resume import take_up

NEAR = 0.01 * float(np.hypot(WIDTH, HEIGHT))  # px, mean of the corners: what the finder calls right
USES = 6  # drawing a view costs more than learning from it


class JudgeNet(nn.Module):
    """(n, 4, 96, 96) to (n,) log-odds."""

    def __init__(self) -> None:
        super().__init__()

        def block(inside: int, outside: int, stride: int = 1) -> nn.Sequential:
            return nn.Sequential(nn.Conv2d(inside, outside, 3, stride, 1, bias=False), nn.BatchNorm2d(outside), nn.ReLU(inplace=True))

        self.body = nn.Sequential(
            block(4, 16, 2), block(16, 24), block(24, 32, 2), block(32, 32), block(32, 48, 2), block(48, 48), block(48, 64, 2)
        )
        self.join = nn.Linear(64 * 6 * 6, 64)
        self.say = nn.Linear(64, 1)

    def forward(self, seen: Tensor) -> Tensor:
        joined = torch.relu(self.join(self.body(seen).flatten(1)))
        return self.say(nn.functional.dropout(joined, 0.2, self.training))[:, 0]


class Judged(NamedTuple):
    """planes: (3, h, w) uint8.  quads: (n, 4, 2) px.  right: (n,)."""

    planes: np.ndarray
    quads: np.ndarray
    right: np.ndarray


def judged(shown: View, net, random: np.random.Generator) -> Judged | None:
    """What the finder comes upon in one view, and what lies near the page or is part of it."""
    frame = frame_from_bgr(shown.picture)
    small = shrunk(frame)
    quads = met_with(frame, small, net)
    if shown.corners is not None:
        quads += near_to(clockwise(shown.corners), random)
    good = [quad for quad in quads if usable(quad)]
    if not good:
        return None
    right = [shown.corners is not None and apart(quad, clockwise(shown.corners)) < NEAR for quad in good]
    return Judged(small.planes, np.stack(good), np.array(right))


def met_with(frame, small, net) -> list[np.ndarray]:
    seen = page_map(small, net)
    rough = []
    for looked in (seen, both(seen, page_map(small, net, turned=True))):
        for region in regions(looked):
            found = rough_quads(looked, region)
            rough += [*plain_quads(looked, region), *found, *doubled(looked, region, found)]
    if not rough:
        return []
    quads = np.stack([one.quad for one in rough])
    return [*quads[::2], *(one.corners for one in refine_quads(frame.y, quads))]


def near_to(page: np.ndarray, random: np.random.Generator) -> list[np.ndarray]:
    """The page itself, the page a little off, one half of it, twice it, and with one side elsewhere."""
    onto = cv2.getPerspectiveTransform(np.float32([[0, 0], [1, 0], [1, 1], [0, 1]]), page.astype(np.float32))

    def part(x0: float, y0: float, x1: float, y1: float) -> np.ndarray:
        ends = np.array([[x0, y0, 1], [x1, y0, 1], [x1, y1, 1], [x0, y1, 1]]) @ onto.T
        return ends[:, :2] / ends[:, 2:]

    made = [page, page + random.normal(0, 0.35 * NEAR, (4, 2)), page + random.normal(0, random.uniform(0.8, 4) * NEAR, (4, 2))]
    made.append(part(*[(0, 0, 0.5, 1), (0.5, 0, 1, 1), (0, 0, 1, 0.5), (0, 0.5, 1, 1)][int(random.integers(4))]))
    box = np.array([0.0, 0, 1, 1])
    box[int(random.integers(4))] += random.normal(0, 0.25)
    made.append(part(*box))
    return made


def usable(quad: np.ndarray) -> bool:
    try:
        check_quadrilateral(quad)
    except DegenerateCorners:
        return False
    return bool((np.abs(quad) < 3 * WIDTH).all())


def clockwise(quad: np.ndarray) -> np.ndarray:
    (ax, ay), (bx, by) = quad[2] - quad[0], quad[3] - quad[1]
    return quad if ax * by > ay * bx else quad[::-1]


def apart(quad: np.ndarray, page: np.ndarray) -> float:
    return min(float(np.linalg.norm(quad - np.roll(page, k, axis=0), axis=1).mean()) for k in range(4))


def page_maps(path: Path):
    how = onnxruntime.SessionOptions()
    how.intra_op_num_threads = how.inter_op_num_threads = 1
    session = onnxruntime.InferenceSession(str(path), how, providers=["CPUExecutionProvider"])
    return lambda given: session.run(None, {"picture": given})[0]


class Quads(IterableDataset):
    """Squared-up quadrilaterals and whether each is right, half of them right."""

    def __init__(self, seed: int, pages: Path) -> None:
        self.seed, self.pages = seed, pages

    def __iter__(self) -> Iterator[tuple[np.ndarray, np.float32]]:
        cv2.setNumThreads(1)
        worker = get_worker_info()
        random = np.random.default_rng([self.seed, worker.id if worker else 0])
        net, kept = page_maps(self.pages), []
        for shown in self.views(random):
            made = judged(shown, net, random)
            if made is not None:
                kept.append(made)
            for _ in range(USES if len(kept) > 300 else 0):
                yield from varied(kept[int(random.integers(len(kept)))], random)
            del kept[: max(0, len(kept) - 3000)]

    def views(self, random: np.random.Generator) -> Iterator[View]:
        bank = Bank(random)
        while True:
            yield view(bank)
            if random.random() < 0.3:
                bank.renew()


def varied(one: Judged, random: np.random.Generator) -> Iterator[tuple[np.ndarray, np.float32]]:
    """A right one and a wrong one of a view, each some other way round, in another light."""
    for right in (True, False):
        which = np.nonzero(one.right == right)[0]
        if not len(which):
            continue
        quad = one.quads[int(random.choice(which))]
        turned = np.roll(quad, int(random.integers(4)), axis=0)
        seen = squared(one.planes, turned[None])[0]
        if random.random() < 0.5:
            seen = seen[:, :, ::-1]
        gain, lift, there = random.uniform(0.8, 1.2), random.normal(0, 0.04), seen[3]
        tinted = (seen[1:3] - 0.5) * random.uniform(0, 1.2) + 0.5 + random.normal(0, 0.015, (2, 1, 1))
        light = np.concatenate([seen[:1] * gain + lift, tinted]).clip(0, 1) * there
        yield np.concatenate([light, there[None]]).astype(np.float32), np.float32(right)


def write(net: nn.Module, path: Path) -> None:
    net.eval()
    torch.onnx.export(
        net, (torch.zeros(2, 4, CANVAS, CANVAS),), str(path), input_names=["seen"], output_names=["odds"],
        opset_version=17, dynamic_axes={"seen": {0: "n"}, "odds": {0: "n"}}, dynamo=False,
    )  # fmt: skip
    net.train()


def main() -> None:
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("--minutes", type=float, default=60)
    asked.add_argument("--out", type=Path, default=Path("src/cartouche/models/judge.onnx"))
    asked.add_argument("--pages", type=Path, default=Path("src/cartouche/models/page.onnx"))
    asked.add_argument("--from", dest="start", type=Path)
    asked.add_argument("--rate", type=float, default=3e-3)
    asked.add_argument("--seed", type=int, default=1)
    given = asked.parse_args()
    torch.manual_seed(given.seed)
    torch.set_num_threads(1)
    batches = iter(DataLoader(Quads(given.seed, given.pages), batch_size=64, num_workers=1, prefetch_factor=8))
    net = JudgeNet()
    net = (take_up(net, given.start, torch.cat([next(batches)[0] for _ in range(4)])) if given.start else net).to(
        memory_format=torch.channels_last
    )
    best = torch.optim.AdamW(net.parameters(), lr=given.rate, weight_decay=1e-3)
    begun, mean, right, step = time.monotonic(), 0.7, 0.5, 0
    while (passed := (time.monotonic() - begun) / (60 * given.minutes)) < 1:
        for group in best.param_groups:
            group["lr"] = given.rate * (min(1, passed / 0.05) * (0.5 + 0.5 * np.cos(np.pi * passed)) + 0.002)
        seen, truth = next(batches)
        out = net(seen.contiguous(memory_format=torch.channels_last))
        loss = nn.functional.binary_cross_entropy_with_logits(out, truth)
        best.zero_grad()
        loss.backward()
        best.step()
        step, mean = step + 1, 0.98 * mean + 0.02 * float(loss.detach())
        right = 0.98 * right + 0.02 * float(((out > 0) == (truth > 0.5)).float().mean())
        if step % 100 == 0:
            print(f"{(time.monotonic() - begun) / 60:.1f} min, {step * 64} quadrilaterals, loss {mean:.4f}, right {right:.4f}", flush=True)
    write(net, given.out)


if __name__ == "__main__":
    main()
