# cython: language_level=3, boundscheck=False, wraparound=False, cdivision=True, initializedcheck=False
"""The inner loops of the network solve, compiled: element laws and Newton's steps.

Everything here works on arrays that ``newton`` prepares; what they mean in a vehicle is said there. ``kernel.pyi`` has
the signatures.
"""

import numpy as np

from percorso.network import laws as _laws

cimport cython
from libc.math cimport exp, fabs, log, log1p, pow, sqrt

from percorso.network.elimination cimport StarMesh, solve_dense, solve_wiring

# The laws, numbered in the order of ``laws.LAWS``.
cdef int TWO_SLOPES = _laws.LAWS.index("two slopes")
cdef int SATURATING = _laws.LAWS.index("saturating")
cdef int FILAMENT = _laws.LAWS.index("filament")
cdef int CONSTANT_POWER = _laws.LAWS.index("constant power")
cdef int LED = _laws.LAWS.index("led")
cdef int DIODE = _laws.LAWS.index("diode")

cdef double LEAK_S = _laws.LEAK_S
cdef double COLD_FILAMENT_SHARE = _laws.COLD_FILAMENT_SHARE
cdef double FILAMENT_EXPONENT = _laws.FILAMENT_EXPONENT
cdef double LED_KNEE_V = _laws.LED_KNEE_V
cdef double RUNAWAY = _laws.RUNAWAY
cdef double MAX_EXPONENT = _laws.MAX_EXPONENT

cdef int MAX_STEPS = 100
cdef int DAMPED_FROM = 30  # Newton steps after which only half of each is taken
cdef double SMALL_STEP_V = 0.01  # no element goes astray within it


# --- Element laws: current (A) and slope (S) at a voltage. All are odd or rectifying and continuous, and pass through
# the origin (a battery through its rest voltage), so a network of them has a solution.


cdef (double, double) two_slopes(double voltage, double knee_v, double below_s, double above_s) noexcept nogil:
    """Straight on each side of ``knee_v``: a battery charging or discharging, an alternator's diodes to D+."""
    cdef double slope = below_s if voltage < knee_v else above_s
    return slope * (voltage - knee_v), slope


cdef (double, double) saturating(double voltage, double knee_v, double level_a, double rise_s) noexcept nogil:
    """A motor: ohmic while it stands, then nearly the current its load's torque asks for, whatever the voltage.

    Torque of a motor goes with its current and its speed with what voltage is left over, so a starter turning an
    engine draws about the same at 9 V as at 11 V and turns slower. Constant-current electronics follow it too.
    """
    cdef double size = fabs(voltage)
    cdef double chord = rise_s + level_a / max(size, knee_v)
    return chord * voltage, chord if size < knee_v else rise_s


cdef (double, double) filament(double voltage, double rated_v, double rated_a) noexcept nogil:
    """A bulb: I ∝ V^0.55, ohmic while its filament is cold."""
    cdef double share = fabs(voltage) / rated_v
    cdef double hot = pow(max(share, COLD_FILAMENT_SHARE), FILAMENT_EXPONENT - 1)  # conductance over rated conductance
    cdef double chord = hot * rated_a / rated_v
    return chord * voltage, FILAMENT_EXPONENT * chord if share > COLD_FILAMENT_SHARE else chord


cdef (double, double) constant_power(double voltage, double power_w, double least_v) noexcept nogil:
    """A switching supply: P/V from its least voltage on, ohmic below."""
    cdef double held = max(fabs(voltage), least_v)
    cdef double chord = power_w / (held * held)
    return chord * voltage, -chord if fabs(voltage) > least_v else chord


cdef (double, double) led(double voltage, double forward_v, double series_ohm) noexcept nogil:
    """An LED with its resistor: nothing below its forward voltage, straight above, a soft knee between."""
    cdef double x = (voltage - forward_v) / LED_KNEE_V
    cdef double soft = max(x, 0.0) + log1p(exp(-fabs(x)))
    cdef double held = min(max(x, -MAX_EXPONENT), MAX_EXPONENT)
    cdef double slope = 1 / (1 + exp(-held)) / series_ohm
    return LED_KNEE_V * soft / series_ohm + LEAK_S * voltage, slope + LEAK_S


cdef (double, double) diode(double voltage, double saturation_a, double emission_v) noexcept nogil:
    """Shockley's law, I = Is (exp(V / n·Vt) − 1); beyond MAX_EXPONENT it goes on straight."""
    cdef double x = min(voltage / emission_v, MAX_EXPONENT)
    cdef double grown = saturation_a * exp(x)
    cdef double beyond = voltage / emission_v - x
    return grown * (1 + beyond) - saturation_a + LEAK_S * voltage, grown / emission_v + LEAK_S


cdef (double, double) element(long law, double voltage, double first, double second, double third) noexcept nogil:
    """The law of one element, by its number."""
    if law == TWO_SLOPES:
        return two_slopes(voltage, first, second, third)
    if law == SATURATING:
        return saturating(voltage, first, second, third)
    if law == FILAMENT:
        return filament(voltage, first, second)
    if law == CONSTANT_POWER:
        return constant_power(voltage, first, second)
    if law == LED:
        return led(voltage, first, second)
    return diode(voltage, first, second)


@cython.ufunc
cdef (double, double) current_and_slope(
    long law, double voltage, double first, double second, double third
) noexcept nogil:
    return element(law, voltage, first, second, third)


# --- How far a step of Newton's method may go: no element may jump to where its slope says nothing.


cdef double limited_junction(double wanted, double before, double saturation_a, double emission_v) noexcept nogil:
    """The usual limiting of circuit simulators (Nagel, SPICE2, 1975, from memory): a current grows, not explodes."""
    cdef double critical = emission_v * log(emission_v / (sqrt(2.0) * saturation_a))
    cdef double growth
    if wanted <= critical or fabs(wanted - before) <= 2 * emission_v:
        return wanted
    if before <= 0:
        return emission_v * log(max(wanted / emission_v, 1.0))
    growth = 1 + (wanted - before) / emission_v
    return before + emission_v * log(max(growth, 1e-30)) if growth > 0 else critical


cdef double limited_knee(double wanted, double before, double knee_v, bint falling) noexcept nogil:
    """Zero for a step astray where a current is level or ``falling`` beyond ``knee_v``.

    There the slope does not tell where the current turns, so a step past zero means nothing; a falling current even
    drives an unfed device's voltage up, to just about twice at each step.
    """
    cdef double along = wanted if before > 0 else -wanted
    cdef bint astray = along < 0 or (falling and along > RUNAWAY * fabs(before))
    return 0.0 if fabs(before) > knee_v and astray else wanted


cdef double held_back(long law, double wanted, double before, double first, double second) noexcept nogil:
    """The voltage to try next on an element, V, by the number of its law."""
    if law == DIODE:
        return limited_junction(wanted, before, first, second)
    if law == SATURATING:
        return limited_knee(wanted, before, first, False)
    if law == FILAMENT:
        return limited_knee(wanted, before, COLD_FILAMENT_SHARE * first, False)
    if law == CONSTANT_POWER:
        return limited_knee(wanted, before, second, True)
    return wanted


@cython.ufunc
cdef double limited_v(long law, double wanted, double before, double first, double second) noexcept nogil:
    return held_back(law, wanted, before, first, second)


# --- Newton's method on the voltages of the active elements.


cdef bint settle(
    const long[::1] law,
    const double[:, ::1] parameters,
    const double[:, ::1] impedance,
    const double[::1] bias,
    const double[::1] companion,
    double[::1] voltage,
    double settled_v,
    double[:, ::1] jacobian,
    double[:, ::1] change,
    double[:, ::1] excess,
) noexcept nogil:
    """Newton's steps on ``voltage``, in place. ``jacobian``, ``change`` and ``excess`` are room to work in: a column
    of ``excess`` is what the elements take beyond their companions (A), the other by how much more for more voltage (S).
    """
    cdef Py_ssize_t size = voltage.shape[0], row, column
    cdef int step
    cdef double longest, wanted
    cdef bint settled
    cdef (double, double) found
    for step in range(MAX_STEPS):
        for row in range(size):
            found = element(law[row], voltage[row], parameters[row, 0], parameters[row, 1], parameters[row, 2])
            excess[row, 0] = found[0] - companion[row] * voltage[row]
            excess[row, 1] = found[1] - companion[row]
        settled = True
        for row in range(size):
            change[row, 0] = bias[row] - voltage[row]
            for column in range(size):
                change[row, 0] -= impedance[row, column] * excess[column, 0]
            settled = settled and fabs(change[row, 0]) < settled_v  # what is no number has not settled
        if settled:
            return True
        for row in range(size):
            for column in range(size):
                jacobian[row, column] = impedance[row, column] * excess[column, 1]
            jacobian[row, row] += 1
        if not solve_dense(jacobian, change):
            return False
        longest = 0
        for row in range(size):
            longest = max(longest, fabs(change[row, 0]))
        for row in range(size):
            wanted = voltage[row] + (change[row, 0] if step < DAMPED_FROM else change[row, 0] / 2)
            if longest >= SMALL_STEP_V:
                wanted = held_back(law[row], wanted, voltage[row], parameters[row, 0], parameters[row, 1])
            voltage[row] = wanted
    return False


def newton(
    StarMesh wiring,
    const double[::1] conductance,
    const double[::1] ground,
    const double[:, ::1] block,
    const double[::1] driven,
    const long[::1] law,
    const double[:, ::1] parameters,
    const double[::1] companion,
    const long[::1] start,
    const long[::1] end,
    const long[::1] slot,
    double[::1] voltage,
    bint is_guess,
    double settled_v,
):
    cdef Py_ssize_t unknowns = driven.shape[0], size = block.shape[0], place
    cdef double[::1] slopes = np.empty(conductance.shape[0]), to_ground = np.empty(ground.shape[0])
    cdef double[::1] around = np.empty(ground.shape[0])
    cdef double[:, ::1] rest = np.empty((size, size)), rest_right = np.empty((size, 1))
    found = np.empty((unknowns, 1))
    cdef double[:, ::1] right = found
    cdef int step
    cdef double longest, wanted, source
    cdef bint settled
    cdef (double, double) taken
    for step in range(MAX_STEPS):
        slopes[:], to_ground[:], right[:, 0] = conductance, ground, driven
        for place in range(voltage.shape[0]):
            taken = (0.0, companion[place])
            source = 0.0
            if is_guess or step > 0:
                taken = element(law[place], voltage[place], parameters[place, 0], parameters[place, 1], parameters[place, 2])
                source = taken[0] - taken[1] * voltage[place]
            if slot[place] >= 0:
                slopes[slot[place]] += taken[1]
            right[start[place], 0] -= source
            right[end[place], 0] += source
        if not solve_wiring(wiring, slopes, to_ground, block, right, around, rest, rest_right):
            return None
        longest, settled = 0.0, is_guess or step > 0
        for place in range(voltage.shape[0]):
            wanted = fabs(right[start[place], 0] - right[end[place], 0] - voltage[place])
            settled = settled and wanted < settled_v  # what is no number has not settled
            longest = max(longest, wanted)
        if settled:
            return found[:, 0]
        for place in range(voltage.shape[0]):
            wanted = right[start[place], 0] - right[end[place], 0]
            if step >= DAMPED_FROM:
                wanted = (wanted + voltage[place]) / 2
            if longest >= SMALL_STEP_V:
                wanted = held_back(law[place], wanted, voltage[place], parameters[place, 0], parameters[place, 1])
            voltage[place] = wanted
    return None


def newton_each(
    const long[::1] law,
    const double[:, ::1] parameters,
    const double[::1] companion,
    const double[:, :] impedance,
    const double[::1] bias,
    const double[::1] before_v,
    const double[:, ::1] raised,
    const double[:, ::1] across,
    const long[::1] pair,
    const double[::1] factor,
    const double[::1] at_rest_a,
    const long[::1] other,
    const long[::1] other_law,
    const double[:, ::1] other_parameters,
    double settled_v,
):
    cdef Py_ssize_t count = pair.shape[0], size = law.shape[0], place, here, row, column
    cdef double[:, ::1] jacobian = np.empty((size, size)), change = np.empty((size, 1)), excess = np.empty((size, 2))
    cdef double[:, ::1] varied = np.empty((size, size)), own_parameters = np.array(parameters)
    cdef double[::1] voltage = np.empty(size), own_bias = np.empty(size)
    cdef long[::1] own_law = np.array(law)
    cdef double[:, ::1] taken = np.zeros((count, size))
    cdef double[::1] drawn = np.array(at_rest_a)
    cdef unsigned char[::1] settled = np.zeros(count, dtype=np.uint8)
    for place in range(count):
        here = pair[place]
        for row in range(size):
            voltage[row] = before_v[row]
            own_bias[row] = bias[row] - raised[here, row] * at_rest_a[place]
            for column in range(size):
                varied[row, column] = impedance[row, column] - raised[here, row] * factor[place] * across[here, column]
        if other[place] >= 0:
            own_law[other[place]] = other_law[place]
            own_parameters[other[place]] = other_parameters[place]
        settled[place] = settle(
            own_law, own_parameters, varied, own_bias, companion, voltage, settled_v, jacobian, change, excess
        )
        if other[place] >= 0:
            own_law[other[place]] = law[other[place]]
            own_parameters[other[place]] = parameters[other[place]]
        if settled[place]:  # what did not settle may be no number
            for row in range(size):
                taken[place, row] = excess[row, 0]
                drawn[place] -= factor[place] * across[here, row] * excess[row, 0]
    return np.asarray(taken), np.asarray(drawn), np.asarray(settled).view(np.bool_)


def rank_one_update(
    const double[::1] base,
    const double[:, ::1] reach,
    const double[:, ::1] columns,
    const long[::1] pair,
    const double[:, ::1] excess,
    const double[::1] drawn_a,
):
    cdef Py_ssize_t place, unknown
    found = np.asarray(excess) @ np.asarray(reach).T
    cdef double[:, ::1] unknowns = found
    for place in range(pair.shape[0]):
        for unknown in range(base.shape[0]):
            unknowns[place, unknown] = (
                base[unknown] - unknowns[place, unknown] - columns[pair[place], unknown] * drawn_a[place]
            )
    return found
