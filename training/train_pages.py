"""Teach the page finder and write it as ONNX: `./run train pages`. About an hour on two cores."""

import argparse
import time
from pathlib import Path

import cv2
import numpy as np
import torch
from torch import Tensor, nn
from torch.utils.data import DataLoader, IterableDataset, get_worker_info

from training.narrow import narrowed
from training.page_net import PageNet
from training.page_scenes import HEIGHT, WIDTH, Bank, View, view
from training.resume import take_up

WIDER = 24  # channels at a quarter of the size of the network that the one that ships was narrowed from
BORDER_SIGMA = 1.0  # cells of the output, each two px of the input


def inputs(picture: np.ndarray) -> np.ndarray:
    """BGR to (3, h, w) y, u, v in 0..1."""
    y, v, u = cv2.split(cv2.cvtColor(picture, cv2.COLOR_BGR2YCrCb))
    return np.stack([y, u, v]).astype(np.float32) / 255


def targets(shown: View) -> np.ndarray:
    """(2, h/2, w/2): page, border."""
    high, wide = HEIGHT // 2, WIDTH // 2
    both = np.zeros((2, high, wide), np.float32)
    if shown.corners is None:
        return both
    page = np.zeros((high * 4, wide * 4), np.uint8)
    cv2.fillPoly(page, [(shown.corners * 2 * 16).round().astype(np.int32)], 255, cv2.LINE_AA, 4)
    both[0] = cv2.resize(page, (wide, high), interpolation=cv2.INTER_AREA) / 255.0
    xs, ys = np.meshgrid(np.arange(wide) + 0.5, np.arange(high) + 0.5)
    quad = shown.corners / 2
    near = np.full(xs.shape, 1e9)
    for a, b in zip(quad, np.roll(quad, -1, axis=0), strict=True):
        along = b - a
        share = np.clip(((xs - a[0]) * along[0] + (ys - a[1]) * along[1]) / (along @ along), 0, 1)
        near = np.minimum(near, (xs - a[0] - share * along[0]) ** 2 + (ys - a[1] - share * along[1]) ** 2)
    both[1] = np.exp(-near / (2 * BORDER_SIGMA**2))
    return both


class Views(IterableDataset):
    def __init__(self, seed: int) -> None:
        self.seed = seed

    def __iter__(self):
        cv2.setNumThreads(1)
        worker = get_worker_info()
        random = np.random.default_rng([self.seed, worker.id if worker else 0])
        bank, kept = Bank(random), []
        while True:
            shown = view(bank)
            if random.random() < 0.3:
                bank.renew()
            made = (inputs(shown.picture), targets(shown))
            kept.append(made)
            yield self.varied(random, made)
            if len(kept) > 400:  # drawing costs more than learning: each view is seen again, in another light and another way round
                for _ in range(3):
                    yield self.varied(random, kept[int(random.integers(len(kept)))])
                kept.pop(int(random.integers(len(kept))))

    def varied(self, random: np.random.Generator, made: tuple[np.ndarray, np.ndarray]) -> tuple[np.ndarray, np.ndarray]:
        picture, truth = made
        if random.random() < 0.5:
            picture, truth = picture[:, :, ::-1], truth[:, :, ::-1]
        if random.random() < 0.5:
            picture, truth = picture[:, ::-1], truth[:, ::-1]
        gain, lift = random.uniform(0.8, 1.2), random.normal(0, 0.04)
        picture = picture.copy()
        picture[0] = np.clip(picture[0] * gain + lift, 0, 1)
        picture[1:] = np.clip((picture[1:] - 0.5) * random.uniform(0, 1.2) + 0.5 + random.normal(0, 0.015, (2, 1, 1)), 0, 1)
        return picture, np.ascontiguousarray(truth)


def loss_of(out: Tensor, truth: Tensor) -> Tensor:
    crossed = nn.functional.binary_cross_entropy_with_logits(out, truth, reduction="none").mean(dim=(0, 2, 3))
    page = torch.sigmoid(out[:, 0])
    shared = (page * truth[:, 0]).sum(dim=(1, 2))
    dice = 1 - (2 * shared + 30) / (page.sum(dim=(1, 2)) + truth[:, 0].sum(dim=(1, 2)) + 30)
    return crossed[0] + 2 * crossed[1] + 0.5 * dice.mean()


def agreement(out: Tensor, teacher: Tensor) -> Tensor:
    """How far its answers, cell by cell, are from those of a network that knows already. Both logits."""
    crossed = nn.functional.binary_cross_entropy_with_logits(out, torch.sigmoid(teacher), reduction="none").mean(dim=(0, 2, 3))
    return crossed[0] + 2 * crossed[1]


def write(net: nn.Module, path: Path) -> None:
    net.eval()
    torch.onnx.export(
        net, (torch.zeros(1, 3, HEIGHT, WIDTH),), str(path), input_names=["picture"], output_names=["page"], opset_version=17,
        dynamic_axes={"picture": {2: "h", 3: "w"}, "page": {2: "h2", 3: "w2"}}, dynamo=False,
    )  # fmt: skip
    net.train()


def main() -> None:
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("--minutes", type=float, default=60)
    asked.add_argument("--out", type=Path, default=Path("src/cartouche/models/page.onnx"))
    asked.add_argument("--from", dest="start", type=Path)
    asked.add_argument("--narrow", type=Path, help="a wider network to begin with and to be taught by")
    asked.add_argument("--rate", type=float, default=4e-3)
    asked.add_argument("--seed", type=int, default=1)
    asked.add_argument("--batch", type=int, default=24)
    given = asked.parse_args()
    torch.manual_seed(given.seed)
    torch.set_num_threads(1)
    views = iter(DataLoader(Views(given.seed), batch_size=given.batch, num_workers=1, prefetch_factor=6))
    net = PageNet()
    teacher = None
    if given.narrow:
        teacher = take_up(PageNet(fine=WIDER), given.narrow, next(views)[0]).to(memory_format=torch.channels_last)
        net = narrowed(teacher, net, next(views)[0])
        teacher.eval()
    net = (take_up(net, given.start, next(views)[0]) if given.start else net).to(memory_format=torch.channels_last)
    best = torch.optim.AdamW(net.parameters(), lr=given.rate, weight_decay=1e-4)
    begun, mean, step, saved = time.monotonic(), 1.0, 0, 0.0
    while (passed := (time.monotonic() - begun) / (60 * given.minutes)) < 1:
        for group in best.param_groups:  # one cycle: up in the first twentieth, down along a cosine
            group["lr"] = given.rate * (min(1, passed / 0.05) * (0.5 + 0.5 * np.cos(np.pi * passed)) + 0.002)
        picture, truth = next(views)
        picture = picture.contiguous(memory_format=torch.channels_last)
        out = net(picture)
        loss = loss_of(out, truth)
        if teacher:
            with torch.no_grad():
                known = teacher(picture)
            loss = loss + 2 * agreement(out, known)
        best.zero_grad()
        loss.backward()
        nn.utils.clip_grad_norm_(net.parameters(), 2.0)
        best.step()
        step, mean = step + 1, 0.98 * mean + 0.02 * float(loss)
        if step % 100 == 0:
            print(f"{(time.monotonic() - begun) / 60:.1f} min, {step * given.batch} views, loss {mean:.4f}", flush=True)
        if passed - saved > 0.1:
            saved = passed
            write(net, given.out)
    write(net, given.out)


if __name__ == "__main__":
    main()
