"""The command ``percorso rules``: every rule of the findings, by name."""

import click

from percorso.findings.rules import as_page


@click.command()
def rules() -> None:
    """Every rule that findings come from: what it says, when, its source, its cure."""
    click.echo(as_page(), nl=False)
