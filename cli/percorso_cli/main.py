"""The command ``percorso``, which knows the others."""

import sys

import click

from percorso_cli.ampacity import ampacity
from percorso_cli.budget import budget
from percorso_cli.check import check
from percorso_cli.drop import drop
from percorso_cli.faults import faults
from percorso_cli.findings import findings
from percorso_cli.measure import measure
from percorso_cli.netlist import netlist
from percorso_cli.pull import pull
from percorso_cli.rules import rules
from percorso_cli.schema import schema
from percorso_cli.size import size
from percorso_cli.solve import solve
from percorso_cli.states import states
from percorso_cli.tables import tables
from percorso_cli.tests import tests
from percorso_cli.trace import trace


@click.group()
def cli() -> None:
    """Planning aids for vehicle circuits; the vehicle maker's data and local codes come first."""


_COMMANDS = (
    *(ampacity, budget, check, drop, faults, findings, measure, netlist, pull),
    *(rules, schema, size, solve, states, tables, tests, trace),
)
for _command in _COMMANDS:
    cli.add_command(_command)


def main() -> None:
    """Run the command."""
    run(cli)


def run(command: click.Command) -> None:
    """Run a command; wrong input is one line on stderr and exit code 2."""
    try:
        sys.exit(command.main(standalone_mode=False))
    except click.ClickException as error:
        click.echo(f"percorso: {' '.join(error.format_message().split())}", err=True)
        sys.exit(2)
    except click.Abort:
        sys.exit(130)
