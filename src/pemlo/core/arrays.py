"""The one array type of the core's numbers."""

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]
