"""Compiles the inner loops of the network solve when the package is installed."""

import numpy
from Cython.Build import cythonize
from setuptools import Extension, setup

COMPILED = [
    Extension(
        f"percorso.network.{name}",
        [f"percorso/network/{name}.pyx"],
        include_dirs=[numpy.get_include()],
        define_macros=[("NPY_NO_DEPRECATED_API", "NPY_1_7_API_VERSION")],
        extra_compile_args=["-O3"],
    )
    for name in ("elimination", "kernel")
]

setup(ext_modules=cythonize(COMPILED, build_dir="build"))
