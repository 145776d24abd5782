"""Teach the reader of ways (which way round does print stand?) and write it as ONNX: `./run train ways`. A quarter of an hour."""

import argparse
import time
from pathlib import Path

import cv2
import numpy as np
import torch
from torch import Tensor, nn
from torch.utils.data import DataLoader, IterableDataset, get_worker_info

from cartouche.core.reading.proof import WINDOW_HEIGHT, WINDOW_WIDTH, windows
from cartouche.core.reading.text_lines import find_lines, ink_map
from training.resume import take_up
from training.text_pages import other_page, text_page

NO_PRINT = 4
USES = 5  # drawing a page costs more than learning from it: each window is seen this often, each time another way round


class WayNet(nn.Module):
    """(n, 1, 32, 128) to (n, 5): upright, half turn, reversed, reversed half turn, no print."""

    def __init__(self) -> None:
        super().__init__()

        def block(inside: int, outside: int, stride: tuple[int, int] = (1, 1)) -> nn.Sequential:
            return nn.Sequential(nn.Conv2d(inside, outside, 3, stride, 1, bias=False), nn.BatchNorm2d(outside), nn.ReLU(inplace=True))

        self.body = nn.Sequential(
            block(1, 16), block(16, 24, (2, 2)), block(24, 24), block(24, 48, (2, 2)), block(48, 48), block(48, 64, (2, 2)), block(64, 64)
        )
        self.join = nn.Conv2d(64, 96, (4, 3), padding=(0, 1))
        self.say = nn.Linear(96, 5)

    def forward(self, window: Tensor) -> Tensor:
        return self.say(torch.relu(self.join(self.body(window))).mean(dim=(2, 3)))


def stood(window: np.ndarray, way: int) -> np.ndarray:
    """(32, 128) as it looks the other way round; 0 as it is, 1 half a turn, 2 flipped left-right, 3 flipped top-bottom."""
    return (window, window[::-1, ::-1], window[:, ::-1], window[::-1])[way]


class Windows(IterableDataset):
    def __init__(self, seed: int, fonts: Path) -> None:
        self.seed, self.fonts = seed, fonts

    def __iter__(self):
        cv2.setNumThreads(1)
        worker = get_worker_info()
        random = np.random.default_rng([self.seed, worker.id if worker else 0])
        kept: list[tuple[np.ndarray, bool]] = []
        while True:
            is_text = random.random() < 0.8
            page = text_page(random, self.fonts) if is_text else other_page(random)
            ink = ink_map(page)
            lines = find_lines(ink)
            random.shuffle(lines)
            cut, vertical, _ = windows(ink, lines, most=24 if is_text else 12)
            kept += [(window[0], bool(is_text and not down)) for window, down in zip(cut, vertical, strict=True)]
            for _ in range(USES * len(cut) if len(kept) > 1500 else 0):
                window, is_print = kept[int(random.integers(len(kept)))]
                way = int(random.integers(4))
                turned = stood(window, way)
                shifted = np.roll(turned, (int(random.integers(-2, 3)), int(random.integers(-8, 9))), axis=(0, 1))
                yield np.clip(shifted * random.uniform(0.6, 1.1), 0, 1)[None].astype(np.float32), way if is_print else NO_PRINT
            del kept[: max(0, len(kept) - 4000)]


def main() -> None:
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("--minutes", type=float, default=15)
    asked.add_argument("--out", type=Path, default=Path("src/cartouche/models/ways.onnx"))
    asked.add_argument("--fonts", type=Path, default=Path(__file__).parent)
    asked.add_argument("--rate", type=float, default=3e-3)
    asked.add_argument("--from", dest="start", type=Path)
    asked.add_argument("--seed", type=int, default=1)
    given = asked.parse_args()
    torch.manual_seed(given.seed)
    torch.set_num_threads(1)
    batches = iter(DataLoader(Windows(given.seed, given.fonts), batch_size=64, num_workers=1, prefetch_factor=8))
    net = WayNet()
    net = take_up(net, given.start, torch.cat([next(batches)[0] for _ in range(8)])) if given.start else net
    best = torch.optim.AdamW(net.parameters(), lr=given.rate, weight_decay=1e-3)
    begun, mean, right, step = time.monotonic(), 1.6, 0.2, 0
    for window, way in batches:
        passed = (time.monotonic() - begun) / (60 * given.minutes)
        if passed >= 1:
            break
        for group in best.param_groups:
            group["lr"] = given.rate * (min(1, passed / 0.05) * (0.5 + 0.5 * np.cos(np.pi * passed)) + 0.002)
        out = net(window)
        loss = nn.functional.cross_entropy(out, way, label_smoothing=0.02)
        best.zero_grad()
        loss.backward()
        best.step()
        step, mean = step + 1, 0.98 * mean + 0.02 * float(loss.detach())
        right = 0.98 * right + 0.02 * float((out.argmax(1) == way).float().mean())
        if step % 100 == 0:
            print(f"{(time.monotonic() - begun) / 60:.1f} min, {step * 64} windows, loss {mean:.4f}, right {right:.4f}", flush=True)
    net.eval()
    torch.onnx.export(
        net, (torch.zeros(2, 1, WINDOW_HEIGHT, WINDOW_WIDTH),), str(given.out), input_names=["window"], output_names=["way"],
        opset_version=17, dynamic_axes={"window": {0: "n"}, "way": {0: "n"}}, dynamo=False,
    )  # fmt: skip


if __name__ == "__main__":
    main()
