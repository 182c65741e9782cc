"""The command ``percorso``, which knows the others."""

import sys
from importlib import import_module

import click

NAMES = (
    *("ampacity", "budget", "check", "cold", "drop", "faults", "findings", "lay", "map", "measure", "netlist", "pull"),
    *("rules", "schema", "size", "solve", "states", "tables", "tests", "trace", "vehicle"),
)


class _Commands(click.Group):
    """Each command is read in when it is called: they are called by the hundred, and most need little of the core."""

    def list_commands(self, _: click.Context) -> list[str]:
        return list(NAMES)

    def get_command(self, _: click.Context, name: str) -> click.Command | None:
        if name not in NAMES:
            return None
        command: click.Command = getattr(import_module(f"percorso_cli.{name}"), name)
        return command


@click.group(cls=_Commands)
def cli() -> None:
    """Planning aids for vehicle circuits; the vehicle maker's data and local codes come first."""


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
