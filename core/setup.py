"""Compiles the inner loops of the network solve when the package is installed."""

import numpy
from Cython.Build import cythonize
from setuptools import Extension, setup

KERNEL = Extension(
    "percorso.network.kernel",
    ["percorso/network/kernel.pyx"],
    include_dirs=[numpy.get_include()],
    define_macros=[("NPY_NO_DEPRECATED_API", "NPY_1_7_API_VERSION")],
    extra_compile_args=["-O3"],
)

setup(ext_modules=cythonize([KERNEL], build_dir="build"))
