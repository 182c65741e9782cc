"""Carries job files of earlier versions over to the one that is read."""

from typing import Any

RENAMED = {"value_v": "value", "lead_offset_v": "lead_offset", "instrument": "meter"}  # of a reading of version 1


def carried_over(document: dict[str, Any]) -> dict[str, Any]:
    """A document of an earlier version as one of version 3.

    Version 1 had drops that were read, each in the state in which its circuit is judged: they become measurements; what
    is no reading at all is left to the model. Version 2 did not say how a part is known: all of them were seen.
    """
    if document.get("version") == 2:
        return {**document, "version": 3}
    if document.get("version") != 1:
        return document
    circuits = (each for each in _parts(document, "circuits") if isinstance(each.get("id"), str))
    states = {each["id"]: each.get("state", "idle") for each in circuits}
    readings = document.get("readings", [])
    if isinstance(readings, list):
        readings = [_measurement(each, states) if isinstance(each, dict) else each for each in readings]
    return {**document, "version": 3, "readings": readings}


def _parts(document: dict[str, Any], part: str) -> list[dict[str, Any]]:
    listed = document.get(part)
    return [each for each in listed if isinstance(each, dict)] if isinstance(listed, list) else []


def _measurement(reading: dict[str, Any], states: dict[str, Any]) -> dict[str, Any]:
    values = {RENAMED.get(name, name): value for name, value in reading.items() if name != "stage"}
    circuit = values.get("circuit")
    state = states.get(circuit, "idle") if isinstance(circuit, str) else "idle"
    situation = {"stage": reading.get("stage", "planned"), "state": state}
    return {"quantity": "voltage", **values, "situation": situation}
