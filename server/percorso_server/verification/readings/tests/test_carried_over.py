"""Rows from before: a drop that was logged stays the same number, now as a measurement of its job."""

from datetime import UTC, datetime

from django.db import connection
from django.db.migrations.executor import MigrationExecutor
from django.test import TransactionTestCase

BEFORE = [("readings", "0004_carry_over"), ("jobs", "0006_fixed_inputs")]
TAKEN = datetime(2026, 10, 20, 7, 40, tzinfo=UTC)


class RowsFromBefore(TransactionTestCase):
    def setUp(self) -> None:
        executor = MigrationExecutor(connection)
        self.addCleanup(lambda: MigrationExecutor(connection).migrate(executor.loader.graph.leaf_nodes()))
        executor.migrate(BEFORE)
        others = [each for each in executor.loader.graph.leaf_nodes() if each[0] not in ("readings", "jobs")]
        self.old = executor.loader.project_state([*BEFORE, *others]).apps

    def test_a_drop_becomes_a_measurement(self) -> None:
        make = {name: self.old.get_model(name).objects for name in MODELS}
        shop = make["workshop.Shop"].create(name="Officina di prova")
        person = make["workshop.Person"].create(username="prova", shop=shop)
        job = make["jobs.Job"].create(shop=shop, name="Ground", vehicle="Tractor")
        red, black = (make["jobs.Point"].create(job=job, name=name) for name in ("Block", "B− post"))
        numbers = {"design_current_a": 260, "source_v": 10.5, "target_value": 0.3}
        words = {"family": "ground", "device": "Engine", "state": "cranking", "target_kind": "max_drop_v"}
        circuit = make["jobs.Circuit"].create(job=job, name="Ground", return_point=red, **numbers, **words)
        read = {"value_v": 1.28, "current_a": 195, "lead_offset_v": 0.01, "instrument": "Bench meter 1"}
        make["readings.Reading"].create(
            circuit=circuit, stage="found", red_point=red, black_point=black, taken_at=TAKEN, taken_by=person, **read
        )
        executor = MigrationExecutor(connection)
        executor.migrate(executor.loader.graph.leaf_nodes())
        after = executor.loader.project_state(executor.loader.graph.leaf_nodes()).apps
        row = after.get_model("readings", "Reading").objects.get()
        self.assertEqual((row.value, row.current_a, row.lead_offset, row.meter), (1.28, 195, 0.01, "Bench meter 1"))
        self.assertEqual((row.quantity, row.instrument, row.job_id), ("voltage", "multimeter", job.id))
        self.assertEqual((row.situation["stage"], row.situation["state"]), ("found", "cranking"))
        self.assertEqual((row.taken_at, row.received_at), (TAKEN, TAKEN))


MODELS = ("workshop.Shop", "workshop.Person", "jobs.Job", "jobs.Point", "jobs.Circuit", "readings.Reading")
