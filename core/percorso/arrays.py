"""The arrays that the computation works on."""

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
