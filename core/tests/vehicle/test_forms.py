"""The forms against the models behind them: every value can be typed, no example or choice is refused."""

import re
from collections.abc import Iterator
from typing import Annotated, Any, get_args
from unittest import TestCase

from pydantic import BaseModel, TypeAdapter, ValidationError

from percorso.vehicle.devices import DEVICE_KINDS
from percorso.vehicle.form_fields import FormField
from percorso.vehicle.forms import forms
from percorso.vehicle.segments import KINDS
from percorso.vehicle.values import NewRoute

A_VALUE = re.compile(r"[0-9.]+ ?[A-Za-z%]{0,4}[0-9]?")  # "10 AWG", "6 mm2", "25C", "70"; not "60 % of nominal"


def every_form() -> Iterator[tuple[type[BaseModel], tuple[FormField, ...]]]:
    asked = {each.kind: each.fields for each in (*forms().segments, *forms().devices)}
    for model in (*KINDS, *DEVICE_KINDS):
        yield model, asked.pop(model.model_fields["kind"].default)
    assert not asked
    yield NewRoute, forms().circuit


def adapter(model: type[BaseModel], field: FormField) -> TypeAdapter[Any]:
    """What reads one field of a model by itself."""
    info = model.model_fields[field.name]
    own: Any = Annotated[info.annotation, info]  # a type that is only known at run time
    return TypeAdapter(own)


class Forms(TestCase):
    def test_every_value_of_a_piece_can_be_typed(self) -> None:
        for model, fields in every_form():
            with self.subTest(model.__name__):
                values = {name for name, info in model.model_fields.items() if len(get_args(info.annotation)) != 1}
                self.assertEqual({each.name for each in fields}, values - {"typed"})
                self.assertTrue(all(each.label for each in fields))

    def test_every_example_is_read_by_its_own_field(self) -> None:
        read = 0
        for model, fields in every_form():
            for field in fields:
                for text in field.usual.split(" or "):
                    if A_VALUE.fullmatch(text):
                        with self.subTest(f"{model.__name__}, {field.name}: {text}"):
                            adapter(model, field).validate_python(float(text) if field.answer == "number" else text)
                        read += 1
        self.assertGreater(read, 40)

    def test_what_can_be_chosen_and_what_it_starts_with_are_taken(self) -> None:
        for model, fields in every_form():
            for field in fields:
                offered = [each.value for each in field.choices] or ([field.start] if field.start else [])
                if field.start and field.choices:
                    self.assertLessEqual(set(field.start.split(",")), set(offered))
                for value in offered:
                    with self.subTest(f"{model.__name__}, {field.name}: {value}"):
                        said = value.split(",") if field.answer == "many" else value
                        adapter(model, field).validate_python(said)

    def test_numbers_beyond_the_range_that_is_said_are_refused(self) -> None:
        tried = 0
        for model, fields in every_form():
            for field in fields:
                for bound, beyond in ((field.lowest, -1e-6), (field.highest, 1e-6)):
                    if bound is None:
                        continue
                    tried += 1
                    with self.subTest(f"{model.__name__}, {field.name}"), self.assertRaises(ValidationError):
                        adapter(model, field).validate_python(bound + beyond * max(abs(bound), 1))
        self.assertGreater(tried, 100)
