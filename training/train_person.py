"""The person network: from the TFLite file of the npm package @mediapipe/selfie_segmentation (Apache-2.0) to ONNX.

It is not taught here. `./run train person` installs the package and writes src/cartouche/models/person.onnx.
"""

from pathlib import Path

import numpy as np
import onnx
import tflite
from onnx import TensorProto, helper, numpy_helper

SOURCE = Path("training/node_modules/@mediapipe/selfie_segmentation/selfie_segmentation_landscape.tflite")
TARGET = Path("src/cartouche/models/person.onnx")
OPSET = 17
TYPES = {0: np.float32, 1: np.float16, 2: np.int32}
NAMES = {value: name for name, value in vars(tflite.BuiltinOperator).items() if isinstance(value, int)}


class Converter:
    """TFLite keeps pictures as (1, h, w, c); ONNX wants (1, c, h, w)."""

    def __init__(self, content: bytes) -> None:
        self.model = tflite.Model.GetRootAsModel(content, 0)
        self.graph = self.model.Subgraphs(0)
        self.nodes: list[onnx.NodeProto] = []
        self.stored: dict[str, onnx.TensorProto] = {}
        self.held: dict[int, np.ndarray] = {}  # constants, after DEQUANTIZE too

    def constant(self, at: int) -> np.ndarray:
        if at not in self.held:
            tensor = self.graph.Tensors(at)
            raw = self.model.Buffers(tensor.Buffer()).DataAsNumpy()
            self.held[at] = np.frombuffer(raw.tobytes(), TYPES[tensor.Type()]).reshape(tensor.ShapeAsNumpy())
        return self.held[at]

    def store(self, name: str, values: np.ndarray) -> str:
        self.stored[name] = numpy_helper.from_array(np.ascontiguousarray(values), name)
        return name

    def add(self, kind: str, inputs: list[str], output: int, **more: object) -> None:
        self.nodes.append(helper.make_node(kind, inputs, [f"t{output}"], **more))

    def shape(self, at: int) -> list[int]:
        return [int(value) for value in self.graph.Tensors(at).ShapeAsNumpy()]

    def convert(self) -> onnx.ModelProto:
        for number in range(self.graph.OperatorsLength()):
            op = self.graph.Operators(number)
            code = self.model.OperatorCodes(op.OpcodeIndex())
            name = NAMES[max(code.BuiltinCode(), code.DeprecatedBuiltinCode())]
            getattr(self, f"_{name.lower()}")(op, [int(at) for at in op.InputsAsNumpy()], int(op.OutputsAsNumpy()[0]))
        first, last = int(self.graph.InputsAsNumpy()[0]), int(self.graph.OutputsAsNumpy()[0])
        _, high, wide, _ = self.shape(first)
        ends = (helper.make_node("Identity", ["picture"], [f"t{first}"]), helper.make_node("Identity", [f"t{last}"], ["person"]))
        graph = helper.make_graph(
            [ends[0], *self.nodes, ends[1]],
            "person",
            [helper.make_tensor_value_info("picture", TensorProto.FLOAT, [1, 3, high, wide])],
            [helper.make_tensor_value_info("person", TensorProto.FLOAT, [1, 1, high, wide])],
            list(self.stored.values()),
        )
        made = helper.make_model(graph, opset_imports=[helper.make_opsetid("", OPSET)], ir_version=8)
        onnx.checker.check_model(made)
        return made

    def _dequantize(self, _op, inputs, output) -> None:
        self.held[output] = self.constant(inputs[0]).astype(np.float32)

    def _pads(self, options, source: int, kernel: tuple[int, int]) -> list[int]:
        """As TensorFlow's SAME: what is odd goes to the end."""
        if options.Padding() != tflite.Padding.SAME:
            return [0, 0, 0, 0]
        sides = []
        for size, step, reach in zip(self.shape(source)[1:3], (options.StrideH(), options.StrideW()), kernel, strict=True):
            total = max((-(-size // step) - 1) * step + reach - size, 0)
            sides.append((total // 2, total - total // 2))
        return [sides[0][0], sides[1][0], sides[0][1], sides[1][1]]

    def _conv(self, op, inputs, output, options, weights: np.ndarray, groups: int) -> None:
        options.Init(op.BuiltinOptions().Bytes, op.BuiltinOptions().Pos)
        assert options.FusedActivationFunction() == tflite.ActivationFunctionType.NONE
        names = [f"t{inputs[0]}", self.store(f"w{output}", weights), self.store(f"b{output}", self.constant(inputs[2]))]
        pads = self._pads(options, inputs[0], weights.shape[2:])
        self.add("Conv", names, output, strides=[options.StrideH(), options.StrideW()], pads=pads, group=groups)

    def _conv_2d(self, op, inputs, output) -> None:
        self._conv(op, inputs, output, tflite.Conv2DOptions(), self.constant(inputs[1]).transpose(0, 3, 1, 2), 1)

    def _depthwise_conv_2d(self, op, inputs, output) -> None:
        weights = self.constant(inputs[1]).transpose(3, 0, 1, 2)
        self._conv(op, inputs, output, tflite.DepthwiseConv2DOptions(), weights, len(weights))

    def _custom(self, _op, inputs, output) -> None:
        """Convolution2DTransposeBias: two by two, in steps of two."""
        weights = self.constant(inputs[1]).transpose(3, 0, 1, 2)
        names = [f"t{inputs[0]}", self.store(f"w{output}", weights), self.store(f"b{output}", self.constant(inputs[2]))]
        self.add("ConvTranspose", names, output, strides=[2, 2])

    def _mean(self, _op, inputs, output) -> None:
        self.add("ReduceMean", [f"t{inputs[0]}"], output, axes=[2, 3], keepdims=1)

    def _resize_bilinear(self, op, inputs, output) -> None:
        options = tflite.ResizeBilinearOptions()
        options.Init(op.BuiltinOptions().Bytes, op.BuiltinOptions().Pos)
        way = "align_corners" if options.AlignCorners() else "half_pixel" if options.HalfPixelCenters() else "asymmetric"
        _, high, wide, deep = self.shape(output)
        sizes = self.store(f"s{output}", np.array([1, deep, high, wide], np.int64))
        self.add("Resize", [f"t{inputs[0]}", "", "", sizes], output, mode="linear", coordinate_transformation_mode=way)

    def _pair(self, kind: str, inputs, output) -> None:
        self.add(kind, [f"t{at}" for at in inputs], output)

    def _add(self, op, inputs, output) -> None:
        self._pair("Add", inputs, output)

    def _mul(self, op, inputs, output) -> None:
        self._pair("Mul", inputs, output)

    def _relu(self, _op, inputs, output) -> None:
        self._pair("Relu", inputs, output)

    def _hard_swish(self, _op, inputs, output) -> None:
        self._pair("HardSwish", inputs, output)

    def _logistic(self, _op, inputs, output) -> None:
        self._pair("Sigmoid", inputs, output)


def main(source: Path = SOURCE, target: Path = TARGET) -> None:
    onnx.save(Converter(source.read_bytes()).convert(), str(target))


if __name__ == "__main__":
    main()
