"""The arrays that the computation works on."""

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Numbers = NDArray[np.int64]
Mask = NDArray[np.bool_]
