"""Types that every floor shares."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Report = Callable[[float], None]  # hears how much of a job is done, 0 to 1
