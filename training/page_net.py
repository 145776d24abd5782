"""The page finder's network: from a small picture to where the page lies, under hands too, and where its border runs."""

import torch
from torch import Tensor, nn


def block(inside: int, outside: int, stride: int = 1, dilation: int = 1) -> nn.Sequential:
    return nn.Sequential(
        nn.Conv2d(inside, outside, 3, stride, padding=dilation, dilation=dilation, bias=False),
        nn.BatchNorm2d(outside),
        nn.ReLU(inplace=True),
    )


class PageNet(nn.Module):
    """(n, 3, h, w) in 0..1 (y, u, v; h and w multiples of 16) to (n, 2, h/2, w/2) logits: page, border."""

    def __init__(self, wide: int = 16, fine: int = 16) -> None:
        """fine: channels at a quarter of the size, where most of the time goes. Multiples of 16 waste none of a processor's lanes."""
        super().__init__()
        a, b, c, d = wide, fine, wide * 3, wide * 6
        self.stem = block(3, a, 2)
        self.quarter = nn.Sequential(block(a, b, 2), block(b, b))
        self.eighth = nn.Sequential(block(b, c, 2), block(c, c), block(c, c))
        self.deep = nn.Sequential(block(c, d, 2), block(d, d), block(d, d, dilation=2), block(d, d, dilation=4), block(d, c))
        self.up_eighth = block(2 * c, c)
        self.to_quarter = nn.Sequential(block(c, b))
        self.up_quarter = nn.Sequential(block(2 * b, b), block(b, b))
        self.head = nn.Conv2d(b, 8, 1)
        self.shuffle = nn.PixelShuffle(2)
        self.up = nn.Upsample(scale_factor=2, mode="bilinear", align_corners=False)

    def forward(self, picture: Tensor) -> Tensor:
        quarter = self.quarter(self.stem(picture))
        eighth = self.eighth(quarter)
        joined = self.up_eighth(torch.cat([eighth, self.up(self.deep(eighth))], dim=1))
        fine = self.up_quarter(torch.cat([quarter, self.up(self.to_quarter(joined))], dim=1))
        return self.shuffle(self.head(fine))
