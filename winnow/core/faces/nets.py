"""The neural networks, run by LiteRT. Files, origin and licences: `winnow/models/README.md`."""

from __future__ import annotations

from collections.abc import Mapping
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float32]


class Model(StrEnum):
    """Names of the model files, without ending."""

    DETECTOR = "face_detection_full_range"
    LANDMARKS = "face_landmark"
    EYE = "iris_landmark"


class Net:
    """One network on one thread. Not for several threads at once."""

    def __init__(self, content: bytes) -> None:
        # Imported here: it takes a quarter of a second, and only processes that measure need it.
        from ai_edge_litert.interpreter import Interpreter

        self._interpreter = Interpreter(model_content=content, num_threads=1)
        self._interpreter.allocate_tensors()
        self._input = self._interpreter.get_input_details()[0]["index"]
        self._outputs = [output["index"] for output in self._interpreter.get_output_details()]

    def run(self, picture: Floats) -> list[Floats]:
        """The outputs for a picture of the size the network wants (rows, columns, 3), largest first."""
        self._interpreter.set_tensor(self._input, picture[None])
        self._interpreter.invoke()
        outputs = [np.array(self._interpreter.get_tensor(index)) for index in self._outputs]
        return sorted(outputs, key=lambda output: -output.size)


class FaceNets:
    """All networks that faces need, loaded once a process."""

    def __init__(self, models: Mapping[Model, bytes]) -> None:
        self._nets = {name: Net(content) for name, content in models.items()}

    def __getitem__(self, name: Model) -> Net:
        return self._nets[name]
