cdef class StarMesh:
    cdef readonly Py_ssize_t points, size
    cdef readonly object slot
    cdef const long[::1] pivot, first, met, mesh, kept

cdef bint solve_dense(double[:, ::1] matrix, double[:, ::1] right) noexcept nogil

cdef bint solve_wiring(
    StarMesh wiring,
    double[::1] conductance,
    double[::1] ground,
    const double[:, ::1] block,
    double[:, ::1] right,
    double[::1] around,
    double[:, ::1] rest,
    double[:, ::1] rest_right,
) noexcept nogil
