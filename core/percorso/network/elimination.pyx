# cython: language_level=3, boundscheck=False, wraparound=False, cdivision=True, initializedcheck=False
"""Linear equations of the network, compiled: a wiring eliminated point by point, a dense solve, islands.

``elimination.pyi`` has the signatures.
"""

from heapq import heapify, heappop, heappush

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


cdef class StarMesh:
    def __init__(self, Py_ssize_t points, start, end, kept):
        cdef list meets = [set() for _ in range(points)]
        for one, other in zip(start.tolist(), end.tolist()):
            if one != other:
                meets[one].add(other)
                meets[other].add(one)
        pivots, stars = _order(meets, set(kept.tolist()))
        slots = {}
        for pivot, star in zip(pivots, stars):
            for point in star:
                slots[pivot, point] = slots[point, pivot] = len(slots) // 2
        stars_end = len(slots) // 2
        for row, one in enumerate(kept.tolist()):
            for column, other in enumerate(kept.tolist()[row + 1 :], row + 1):
                slots[one, other] = slots[other, one] = stars_end + row * len(kept) + column
        meshes = [slots[one, other] for star in stars for place, one in enumerate(star) for other in star[place + 1 :]]
        self.points, self.size = points, stars_end + len(kept) ** 2
        self.pivot = np.array(pivots, dtype=np.int64)
        self.first = np.cumsum([0] + [len(star) for star in stars])
        self.met = np.array([point for star in stars for point in star], dtype=np.int64)
        self.mesh = np.array(meshes, dtype=np.int64)
        self.kept = np.array(kept, dtype=np.int64)
        ends = zip(start.tolist(), end.tolist())
        self.slot = np.array([slots.get((one, other), -1) for one, other in ends], dtype=np.int64)

    def summed(self, const long[::1] slot, const double[::1] conductance):
        found = np.zeros(self.size)
        cdef double[::1] total = found
        cdef Py_ssize_t branch
        for branch in range(slot.shape[0]):
            if slot[branch] >= 0:
                total[slot[branch]] += conductance[branch]
        return found


def _order(list meets, set kept):
    """The points as they are eliminated, the one with the fewest neighbours first, and what each of them meets then."""
    waiting = [(len(met), point) for point, met in enumerate(meets) if point not in kept]
    heapify(waiting)
    pivots, stars, gone = [], [], set()
    while waiting:
        count, pivot = heappop(waiting)
        if pivot in gone or count != len(meets[pivot]):
            continue
        star = sorted(meets[pivot])
        for point in star:
            met = meets[point]
            met.discard(pivot)
            met.update(star)
            met.discard(point)
            if point not in kept:
                heappush(waiting, (len(met), point))
        gone.add(pivot)
        pivots.append(pivot)
        stars.append(star)
    return pivots, stars


cdef bint solve_wiring(
    StarMesh wiring,
    double[::1] conductance,
    double[::1] ground,
    const double[:, ::1] block,
    double[:, ::1] right,
    double[::1] around,
    double[:, ::1] rest,
    double[:, ::1] rest_right,
) noexcept nogil:
    """Solve in place; ``right`` becomes the solution. False where a point hangs in the air.

    ``around`` (points), ``rest`` and ``rest_right`` (of the block) are room to work in.
    """
    cdef Py_ssize_t steps = wiring.pivot.shape[0], kept = wiring.kept.shape[0], size = block.shape[0]
    cdef Py_ssize_t sides = right.shape[1], step, pivot, near, ray, other, side, row, column, mesh = 0
    cdef double share, among
    for step in range(steps):
        pivot = wiring.pivot[step]
        around[step] = ground[pivot]
        for ray in range(wiring.first[step], wiring.first[step + 1]):
            around[step] += conductance[ray]
        if not fabs(around[step]) > 0:
            return False
        for ray in range(wiring.first[step], wiring.first[step + 1]):
            share, near = conductance[ray] / around[step], wiring.met[ray]
            ground[near] += share * ground[pivot]
            for side in range(sides):
                right[near, side] += share * right[pivot, side]
            for other in range(ray + 1, wiring.first[step + 1]):
                conductance[wiring.mesh[mesh]] += share * conductance[other]
                mesh += 1
    for row in range(size):
        pivot = wiring.kept[row] if row < kept else wiring.points + row - kept
        for column in range(size):
            rest[row, column] = block[row, column]
        for side in range(sides):
            rest_right[row, side] = right[pivot, side]
    for row in range(kept):
        rest[row, row] += ground[wiring.kept[row]]
        for column in range(row + 1, kept):
            among = conductance[wiring.met.shape[0] + row * kept + column]
            rest[row, row] += among
            rest[column, column] += among
            rest[row, column] -= among
            rest[column, row] -= among
    if not solve_dense(rest, rest_right):
        return False
    for row in range(size):
        pivot = wiring.kept[row] if row < kept else wiring.points + row - kept
        for side in range(sides):
            right[pivot, side] = rest_right[row, side]
    for step in range(steps - 1, -1, -1):
        pivot = wiring.pivot[step]
        for ray in range(wiring.first[step], wiring.first[step + 1]):
            near = wiring.met[ray]
            for side in range(sides):
                right[pivot, side] += conductance[ray] * right[near, side]
        for side in range(sides):
            right[pivot, side] /= around[step]
    return True


def solve_network(
    StarMesh wiring, double[::1] conductance, double[::1] ground, const double[:, ::1] block, double[:, ::1] right
):
    cdef double[:, ::1] rest = np.empty((block.shape[0], block.shape[0]))
    cdef double[:, ::1] rest_right = np.empty((block.shape[0], right.shape[1]))
    return solve_wiring(wiring, conductance, ground, block, right, np.empty(wiring.points), rest, rest_right)


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
