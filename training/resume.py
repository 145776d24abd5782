"""Take the page network up where it was left: its weights read back from the ONNX file that ships."""

from pathlib import Path

import onnx
import torch
from onnx import numpy_helper
from torch import Tensor, nn

from training.page_net import PageNet


def net_from_onnx(path: Path, pictures: Tensor) -> PageNet:
    """pictures: (n, 3, h, w): exporting folds each normalisation into its convolution; these tell what it normalised by."""
    graph = onnx.load(str(path)).graph
    stored = {one.name: torch.from_numpy(numpy_helper.to_array(one).copy()) for one in graph.initializer}
    folded = [[stored[name] for name in node.input[1:]] for node in graph.node if node.op_type == "Conv"]
    net = PageNet().eval()
    order: list[tuple[nn.Conv2d, nn.BatchNorm2d | None]] = []
    norms = {id(layer[0]): layer[1] for layer in net.modules() if isinstance(layer, nn.Sequential) and isinstance(layer[0], nn.Conv2d)}

    def note(layer: nn.Module, _given: object, _made: object) -> None:
        assert isinstance(layer, nn.Conv2d)
        order.append((layer, norms.get(id(layer))))

    hooks = [layer.register_forward_hook(note) for layer in net.modules() if isinstance(layer, nn.Conv2d)]
    with torch.no_grad():
        net(pictures[:1])
        for hook in hooks:
            hook.remove()
        assert len(order) == len(folded)
        for (conv, norm), (weight, bias) in zip(order, folded, strict=True):
            conv.weight.copy_(weight)
            if norm is None:
                assert conv.bias is not None
                conv.bias.copy_(bias)
                continue
            seen: list[Tensor] = []
            hook = conv.register_forward_hook(lambda _layer, _given, made, seen=seen: seen.append(made))
            net(pictures)
            hook.remove()
            mean, var = seen[0].mean(dim=(0, 2, 3)), seen[0].var(dim=(0, 2, 3), unbiased=False)
            norm.running_mean.copy_(mean)
            norm.running_var.copy_(var)
            norm.weight.copy_(torch.sqrt(var + norm.eps))
            norm.bias.copy_(bias + mean)
    return net.train()
