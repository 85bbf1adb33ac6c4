"""What workers need, loaded: imported once, by the process that they are forks of, or by each where there is none."""

import ai_edge_litert.interpreter  # noqa: F401
import cv2
import numpy as np
import numpy.ma  # which NumPy loads when a median is first asked for
from PIL import Image

from winnow.formats import planes
from winnow.pipeline.tasks import use_one_thread

# First: a fork does not have the threads that OpenCV would start, and waits for them for ever.
use_one_thread()

# A fifth of a second for what is loaded, or worked out, when it is first used.
Image.preinit()
cv2.cvtColor(np.zeros((1, 1, 3), np.uint8), cv2.COLOR_RGB2LAB)
planes.library()
