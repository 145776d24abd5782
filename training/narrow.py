"""Begin a narrower network with the channels of a wider one that matter most."""

from itertools import pairwise

import torch
from torch import Tensor, nn

from training.resume import layers_in_order, normalise


def narrowed(wide: nn.Module, net: nn.Module, pictures: Tensor) -> nn.Module:
    """net: the same layers with fewer channels at some.  pictures: what tells which channels say most, and what it normalises by.

    A channel counts by how far its answers swing: what never changes can be left to the next layer's bias.
    """
    wide.eval(), net.eval()
    made = _answers(wide, pictures)
    kept: dict[int, Tensor] = {}  # of each layer, which of its channels
    pairs = list(zip(layers_in_order(wide, pictures[:1]), layers_in_order(net, pictures[:1]), strict=True))
    for layer, narrow in pairs:
        swing = made[id(layer)].std(dim=(0, 2, 3))
        kept[id(layer)] = swing.topk(narrow.out_channels).indices.sort().values
    before = _sources(wide)
    norms = {
        id(layer[0]): layer[1] for one in (wide, net) for layer in one.modules() if isinstance(layer, nn.Sequential) and len(layer) > 1
    }
    with torch.no_grad():
        for layer, narrow in pairs:
            given = _given(layer, before, kept)
            norm, own = norms.get(id(layer)), norms.get(id(narrow))
            weight, bias = _folded(layer, norm) if isinstance(norm, nn.BatchNorm2d) else (layer.weight, layer.bias)
            narrow.weight.copy_(weight[kept[id(layer)]][:, given])
            if isinstance(own, nn.BatchNorm2d):
                normalise(net, narrow, own, bias[kept[id(layer)]], pictures)
            else:
                narrow.bias.copy_(bias[kept[id(layer)]])
    return net.train()


def _folded(layer: nn.Module, norm: nn.BatchNorm2d) -> tuple[Tensor, Tensor]:
    """The convolution that does what layer and normalisation do."""
    by = norm.weight / torch.sqrt(norm.running_var + norm.eps)
    return layer.weight * by[:, None, None, None], norm.bias - norm.running_mean * by


def _answers(net: nn.Module, pictures: Tensor) -> dict[int, Tensor]:
    """What each layer with weights and its normalisation say."""
    made: dict[int, Tensor] = {}
    hooks = [
        layer.register_forward_hook(lambda used, _given, out: made.__setitem__(id(used[0]), out))
        for layer in net.modules()
        if isinstance(layer, nn.Sequential) and isinstance(layer[0], nn.Conv2d)
    ]
    hooks.append(net.head.register_forward_hook(lambda used, _given, out: made.__setitem__(id(used), out)))
    with torch.no_grad():
        net(pictures)
    for hook in hooks:
        hook.remove()
    return made


def _sources(net: nn.Module) -> dict[int, list[nn.Module]]:
    """Of each layer of a `PageNet`, whose channels it is given, in order; none for the first."""
    stem, quarter, eighth, deep = net.stem[0], net.quarter, net.eighth, net.deep
    chain = [stem, *(block[0] for part in (quarter, eighth, deep) for block in part)]
    of = {id(layer): [before] for before, layer in pairwise(chain)}
    of[id(net.up_eighth[0])] = [eighth[-1][0], deep[-1][0]]
    of[id(net.to_quarter[0][0])] = [net.up_eighth[0]]
    of[id(net.up_quarter[0][0])] = [quarter[-1][0], net.to_quarter[0][0]]
    of[id(net.up_quarter[1][0])] = [net.up_quarter[0][0]]
    of[id(net.head)] = [net.up_quarter[1][0]]
    return of


def _given(layer: nn.Module, before: dict[int, list[nn.Module]], kept: dict[int, Tensor]) -> Tensor:
    """Which of its inputs are left."""
    sources = before.get(id(layer))
    if not sources:
        return torch.arange(layer.in_channels)
    shift, left = 0, []
    for source in sources:
        left.append(kept[id(source)] + shift)
        shift += source.out_channels
    return torch.cat(left)
