"""The forms of everything a person describes: each kind of segment and of device, and a circuit."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache

from percorso.targets import FAMILY_NAMES, PURPOSE_NAMES, Family, Purpose
from percorso.vehicle.devices import DEVICE_KINDS
from percorso.vehicle.form_fields import FormField, form_fields
from percorso.vehicle.loads import Load
from percorso.vehicle.segments import KINDS
from percorso.vehicle.states import KEY_POSITIONS, STATE_NAMES, State
from percorso.vehicle.values import NewRoute


@dataclass(frozen=True)
class KindForm:
    """A kind of segment or device; of a device also the terminals it needs, and those that may stay open."""

    kind: str
    label: str
    fields: tuple[FormField, ...]
    terminals: tuple[str, ...] = ()
    open_terminals: tuple[str, ...] = ()
    is_load: bool = False


@dataclass(frozen=True)
class Forms:
    """Every form, in the order in which the kinds are offered, the positions of the key, and what words mean.

    ``families`` are in the order of work, ``states`` as they are said of a vehicle.
    """

    segments: tuple[KindForm, ...]
    devices: tuple[KindForm, ...]
    circuit: tuple[FormField, ...]
    key_positions: tuple[str, ...]
    families: Mapping[Family, str]
    purposes: Mapping[Purpose, str]
    states: Mapping[State, str]


@cache
def forms() -> Forms:
    """All of them; they are the same as long as the program runs."""
    return Forms(
        segments=tuple(KindForm(each.model_fields["kind"].default, each.LABEL, form_fields(each)) for each in KINDS),
        devices=tuple(
            KindForm(
                kind=each.model_fields["kind"].default,
                label=each.LABEL,
                fields=form_fields(each),
                terminals=each.TERMINALS,
                open_terminals=each.OPTIONAL_TERMINALS,
                is_load=issubclass(each, Load),
            )
            for each in DEVICE_KINDS
        ),
        circuit=form_fields(NewRoute),
        key_positions=KEY_POSITIONS,
        families=FAMILY_NAMES,
        purposes=PURPOSE_NAMES,
        states=STATE_NAMES,
    )
