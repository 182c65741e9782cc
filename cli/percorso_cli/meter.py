"""The command ``percorso-meter``: a simulated bench meter that speaks SCPI over TCP on loopback."""

import socketserver
from pathlib import Path
from threading import Lock

import click

from percorso.errors import JobFileError
from percorso.faults.model import FAULTS
from percorso.files.job_file import vehicle_of
from percorso.files.reading import read_job_file
from percorso.vehicle.model import Stage
from percorso.vehicle.states import STATES, State
from percorso.verification.bench.scpi_meter import BenchMeter
from percorso.verification.measured.measurements import Measurement, Situation
from percorso_cli.main import run
from percorso_cli.measure import read_listed
from percorso_cli.options import JOB_PATH, inputs, stage_option

LONGEST_LINE = 6_000_000  # of a job file on one line
LAY_OUT = "SIM:JOB "


class Handler(socketserver.StreamRequestHandler):
    """One connection: a line in, its answer out."""

    server: "Server"

    def handle(self) -> None:
        """Answer lines until the other side hangs up."""
        while line := self.rfile.readline(LONGEST_LINE):
            said = self.server.answer_to(line.decode("utf-8", "replace").strip())
            if said is not None:
                self.wfile.write(f"{said}\n".encode())


class Server(socketserver.ThreadingTCPServer):
    """A meter on a loopback port; connections share it, as the sockets of a real one do."""

    daemon_threads = True
    allow_reuse_address = True

    def __init__(self, port: int, meter: BenchMeter) -> None:
        super().__init__(("127.0.0.1", port), Handler)
        self.meter, self._one_at_a_time = meter, Lock()

    def answer_to(self, line: str) -> str | None:
        """What the meter says to a line; a job file to lay out is read here."""
        with self._one_at_a_time:
            if not line.startswith(LAY_OUT):
                return self.meter.answer(line)
            self._lay_out(line[len(LAY_OUT) :])
            return None

    def _lay_out(self, text: str) -> None:
        try:
            self.meter.lay_out(vehicle_of(read_job_file(text)), text)
        except JobFileError as error:
            self.meter.refuse(f"this is no job: {error.problems[0].message}")


@click.command()
@click.argument("job", type=JOB_PATH, required=False)
@click.option("--port", type=click.IntRange(1, 65535), default=5025, show_default=True, help="On 127.0.0.1.")
@click.option("--red", help="Point that the red probe is on.")
@click.option("--black", help="Point that the black probe is on.")
@click.option("--clamp", help="Segment that the clamp is round.")
@click.option("--state", type=click.Choice(STATES), default="off", show_default=True)
@stage_option
@inputs
@click.option("--fault", "faults", type=JOB_PATH, help="A JSON fault hidden in the vehicle, or a list of them.")
@click.option("--noise", type=click.IntRange(0), help="Seed of its errors; without it they are others at each start.")
def meter(
    job: Path | None,
    port: int,
    red: str | None,
    black: str | None,
    clamp: str | None,
    state: State,
    stage: Stage,
    inputs: tuple[tuple[str, str], ...],
    faults: Path | None,
    noise: int | None,
) -> None:
    """A simulated bench meter on loopback that speaks SCPI; without JOB it waits to be told what lies on its bench."""
    hidden = read_listed(faults, FAULTS, "'--fault'") if faults else []
    made = BenchMeter(faults=hidden, seed=noise)
    situation = Situation(stage=stage, state=state, inputs=dict(inputs))
    if red and black:
        made.measurement = Measurement(quantity="voltage", red_point=red, black_point=black, situation=situation)
    elif clamp:
        made.quantity = "current"
        made.measurement = Measurement(quantity="current", segment=clamp, situation=situation)
    if job is not None:
        text = job.read_text(encoding="utf-8")
        try:
            made.lay_out(vehicle_of(read_job_file(text)), text)
        except JobFileError as error:
            raise click.ClickException(str(error)) from error
    with Server(port, made) as server:
        click.echo(f"listening on 127.0.0.1:{port}")
        server.serve_forever()


def main() -> None:
    """Run the command."""
    run(meter)
