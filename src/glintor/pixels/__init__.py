"""Pictures as planes: reprojection, resampling and colour. The compiled kernels live in `kernels`."""
