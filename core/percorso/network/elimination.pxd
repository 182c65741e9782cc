cdef bint solve_dense(double[:, ::1] matrix, double[:, ::1] right) noexcept nogil
