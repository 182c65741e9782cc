"""The command ``percorso rules``: every rule of the findings, by name."""

from importlib import import_module

import click

from percorso.findings.rules import as_page


@click.command()
def rules() -> None:
    """Every rule that findings come from: what it says, when, its source, its cure."""
    import_module("percorso.study")  # a module says its rules as it is read in, and this one reads in all of them
    click.echo(as_page(), nl=False)
