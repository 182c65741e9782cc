"""The browser's forms against the models behind them: every value can be typed, no example is refused."""

import json
import re
import subprocess
from collections.abc import Iterable, Iterator
from typing import Annotated, Any, ClassVar, get_args
from unittest import TestCase

from pydantic import BaseModel, TypeAdapter

from ops.application import ROOT
from percorso.vehicle.devices import DEVICE_KINDS
from percorso.vehicle.segments import KINDS as SEGMENT_KINDS

FORMS = """
import { createServer } from "vite";
const server = await createServer({ server: { middlewareMode: true }, appType: "custom", logLevel: "error" });
const { DEVICES } = await server.ssrLoadModule("/src/vehicle/deviceKinds.ts");
const { SEGMENT_KINDS, fieldsOf } = await server.ssrLoadModule("/src/circuits/segmentKinds.ts");
console.log(JSON.stringify({
  devices: Object.fromEntries(Object.entries(DEVICES).map(([kind, { fields }]) => [kind, fields])),
  segments: Object.fromEntries(SEGMENT_KINDS.map(({ value }) => [value, fieldsOf(value, undefined, "key")])),
}));
await server.close();
"""
A_VALUE = re.compile(r"[0-9.]+ ?[A-Za-z%]{0,4}[0-9]?")  # "10 AWG", "6 mm2", "25C", "70"; not "60 % of nominal"


def by_kind(models: Iterable[type[BaseModel]]) -> dict[str, type[BaseModel]]:
    return {model.model_fields["kind"].default: model for model in models}


class Forms(TestCase):
    forms: ClassVar[dict[str, dict[str, list[dict[str, Any]]]]]
    models: ClassVar[dict[str, dict[str, type[BaseModel]]]]

    @classmethod
    def setUpClass(cls) -> None:
        node = ["node", "--input-type=module", "--eval", FORMS]
        asked = subprocess.run(node, cwd=ROOT / "web", capture_output=True, text=True, check=True)
        cls.forms = json.loads(asked.stdout)
        cls.models = {"devices": by_kind(DEVICE_KINDS), "segments": by_kind(SEGMENT_KINDS)}

    def _forms(self) -> Iterator[tuple[type[BaseModel], list[dict[str, Any]]]]:
        for what, of_kind in self.models.items():
            self.assertEqual(set(of_kind), set(self.forms[what]))
            for kind, model in of_kind.items():
                yield model, self.forms[what][kind]

    def test_every_value_of_a_piece_can_be_typed(self) -> None:
        for model, fields in self._forms():
            with self.subTest(model.__name__):
                values = {name for name, info in model.model_fields.items() if len(get_args(info.annotation)) != 1}
                self.assertEqual({each["name"] for each in fields}, values - {"typed"})

    def test_every_example_is_read_by_its_own_field(self) -> None:
        read = 0
        for model, fields in self._forms():
            for field in fields:
                info = model.model_fields[field["name"]]
                own: Any = Annotated[info.annotation, info]  # a type that is only known at run time
                adapter: TypeAdapter[Any] = TypeAdapter(own)
                for text in str(field.get("usual", "")).split(" or "):
                    if A_VALUE.fullmatch(text):
                        with self.subTest(f"{model.__name__}, {field['name']}: {text}"):
                            adapter.validate_python(float(text) if field["as"] == "number" else text)
                        read += 1
        self.assertGreater(read, 40)
