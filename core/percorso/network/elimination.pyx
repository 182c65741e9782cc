# cython: language_level=3, boundscheck=False, wraparound=False, cdivision=True, initializedcheck=False
"""Linear equations of the network, compiled: a dense solve, the elimination of a nearly tree-like wiring, islands.

``elimination.pyi`` has the signatures.
"""

import numpy as np

from libc.math cimport fabs


cdef bint solve_dense(double[:, ::1] matrix, double[:, ::1] right) noexcept nogil:
    """Solve in place, with partial pivoting; ``right`` becomes the solution. False where there is none."""
    cdef Py_ssize_t size = matrix.shape[0], sides = right.shape[1], row, column, other, pivot
    cdef double most, factor
    for column in range(size):
        pivot, most = column, fabs(matrix[column, column])
        for row in range(column + 1, size):
            if fabs(matrix[row, column]) > most:
                pivot, most = row, fabs(matrix[row, column])
        if not most > 0:
            return False
        if pivot != column:
            for other in range(column, size):
                matrix[column, other], matrix[pivot, other] = matrix[pivot, other], matrix[column, other]
            for other in range(sides):
                right[column, other], right[pivot, other] = right[pivot, other], right[column, other]
        for row in range(column + 1, size):
            factor = matrix[row, column] / matrix[column, column]
            if factor != 0:
                for other in range(column + 1, size):
                    matrix[row, other] -= factor * matrix[column, other]
                for other in range(sides):
                    right[row, other] -= factor * right[column, other]
    for row in range(size - 1, -1, -1):
        for column in range(row + 1, size):
            factor = matrix[row, column]
            if factor != 0:
                for other in range(sides):
                    right[row, other] -= factor * right[column, other]
        for other in range(sides):
            right[row, other] /= matrix[row, row]
    return True


cdef Py_ssize_t with_fewest(const int[::1] neighbours, const unsigned char[::1] waits) noexcept nogil:
    """The point that waits with the fewest neighbours; −1 where none waits."""
    cdef Py_ssize_t found = -1, point
    for point in range(neighbours.shape[0]):
        if waits[point] and (found < 0 or neighbours[point] < neighbours[found]):
            found = point
            if neighbours[found] <= 1:
                break
    return found


cdef Py_ssize_t eliminate(
    double[:, ::1] matrix, double[:, ::1] right, unsigned char[::1] waits, int[::1] neighbours, int[:, ::1] met
) noexcept nogil:
    """Eliminate the points that wait. ``met`` becomes a row for each: the point, how many it met, and those.

    The column below a pivot is cleared, its row is kept for ``put_back``. Returns how many were eliminated, −1 where
    one of them hangs in the air.
    """
    cdef Py_ssize_t size = matrix.shape[0], sides = right.shape[1], step, pivot, row, column, other, count, near, far
    cdef double factor
    for row in range(size):
        for column in range(size):
            neighbours[row] += matrix[row, column] != 0
    for step in range(size):
        pivot = with_fewest(neighbours, waits)
        if pivot < 0:
            return step
        if not matrix[pivot, pivot] > 0:
            return -1
        waits[pivot] = False
        count = 0
        for column in range(size):
            if matrix[pivot, column] != 0 and column != pivot:
                met[step, 2 + count] = column
                count += 1
        met[step, 0], met[step, 1] = pivot, count
        for row in range(count):
            near = met[step, 2 + row]
            factor = matrix[near, pivot] / matrix[pivot, pivot]
            matrix[near, pivot] = 0
            neighbours[near] -= 1
            for column in range(count):
                far = met[step, 2 + column]
                neighbours[near] += matrix[near, far] == 0
                matrix[near, far] -= factor * matrix[pivot, far]
            for other in range(sides):
                right[near, other] -= factor * right[pivot, other]
    return size


cdef void put_back(const double[:, ::1] matrix, double[:, ::1] right, const int[:, ::1] met, Py_ssize_t steps) noexcept nogil:
    """Solve for the eliminated points, last first, where the others are solved."""
    cdef Py_ssize_t sides = right.shape[1], step, pivot, column, other
    cdef double factor
    for step in range(steps - 1, -1, -1):
        pivot = met[step, 0]
        for column in range(met[step, 1]):
            factor = matrix[pivot, met[step, 2 + column]]
            for other in range(sides):
                right[pivot, other] -= factor * right[met[step, 2 + column], other]
        for other in range(sides):
            right[pivot, other] /= matrix[pivot, pivot]


def solve_network(double[:, ::1] matrix, double[:, ::1] right, const unsigned char[::1] last):
    cdef Py_ssize_t size = matrix.shape[0], sides = right.shape[1], steps, row, column
    cdef int[:, ::1] met = np.empty((size, size + 2), dtype=np.int32)
    cdef Py_ssize_t[::1] left = np.flatnonzero(last)
    cdef double[:, ::1] rest = np.empty((len(left), len(left))), rest_right = np.empty((len(left), sides))
    steps = eliminate(matrix, right, np.equal(last, 0).view(np.uint8), np.zeros(size, dtype=np.int32), met)
    if steps < 0:
        return False
    for row in range(left.shape[0]):
        for column in range(left.shape[0]):
            rest[row, column] = matrix[left[row], left[column]]
        rest_right[row] = right[left[row]]
    if not solve_dense(rest, rest_right):
        return False
    for row in range(left.shape[0]):
        right[left[row]] = rest_right[row]
    put_back(matrix, right, met, steps)
    return True


def add_conductances(double[:, ::1] matrix, const long[::1] start, const long[::1] end, const double[::1] conductance):
    cdef Py_ssize_t branch
    for branch in range(start.shape[0]):
        matrix[start[branch], start[branch]] += conductance[branch]
        matrix[end[branch], end[branch]] += conductance[branch]
        matrix[start[branch], end[branch]] -= conductance[branch]
        matrix[end[branch], start[branch]] -= conductance[branch]


def join(long[::1] island, const long[:] start, const long[:] end):
    cdef Py_ssize_t link, point
    cdef long low, high
    for link in range(start.shape[0]):
        low, high = island[start[link]], island[end[link]]
        while island[low] != low:
            low = island[low]
        while island[high] != high:
            high = island[high]
        if low < high:
            island[high] = low
        else:
            island[low] = high
    for point in range(island.shape[0]):
        island[point] = island[island[point]]
