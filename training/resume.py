"""Take a network up where it was left: its weights read back from the ONNX file that ships."""

from pathlib import Path

import onnx
import torch
from onnx import numpy_helper
from torch import Tensor, nn

Weighed = (nn.Conv2d, nn.Linear)


def take_up(net: nn.Module, path: Path, pictures: Tensor) -> nn.Module:
    """pictures: what the net is given: exporting folds each normalisation into its convolution; these tell what it normalised by."""
    graph = onnx.load(str(path)).graph
    stored = {one.name: torch.from_numpy(numpy_helper.to_array(one).copy()) for one in graph.initializer}
    folded = [[stored[name] for name in node.input[1:]] for node in graph.node if node.op_type in ("Conv", "Gemm")]
    order = layers_in_order(net.eval(), pictures[:1])
    norms = {id(layer[0]): layer[1] for layer in net.modules() if isinstance(layer, nn.Sequential) and len(layer) > 1}
    with torch.no_grad():
        for layer, (weight, bias) in zip(order, folded, strict=True):
            layer.weight.copy_(weight)
            norm = norms.get(id(layer))
            if isinstance(norm, nn.BatchNorm2d):
                normalise(net, layer, norm, bias, pictures)
            else:
                layer.bias.copy_(bias)
    return net.train()


def layers_in_order(net: nn.Module, pictures: Tensor) -> list[nn.Module]:
    """Its layers with weights, as they come to be used."""
    order: list[nn.Module] = []
    hooks = [
        layer.register_forward_hook(lambda used, _given, _made: order.append(used)) for layer in net.modules() if isinstance(layer, Weighed)
    ]
    with torch.no_grad():
        net(pictures)
    for hook in hooks:
        hook.remove()
    return order


def normalise(net: nn.Module, layer: nn.Module, norm: nn.BatchNorm2d, bias: Tensor, pictures: Tensor) -> None:
    """By what the layer says of these pictures, and so that it comes to the same as the folded bias."""
    seen: list[Tensor] = []
    hook = layer.register_forward_hook(lambda _layer, _given, made: seen.append(made))
    net(pictures)
    hook.remove()
    mean, var = seen[0].mean(dim=(0, 2, 3)), seen[0].var(dim=(0, 2, 3), unbiased=False)
    norm.running_mean.copy_(mean)
    norm.running_var.copy_(var)
    norm.weight.copy_(torch.sqrt(var + norm.eps))
    norm.bias.copy_(bias + mean)
