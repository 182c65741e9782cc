"""The command ``percorso schema``: what a job file must hold."""

import json

import click

from percorso.files.job_file import job_file_schema


@click.command()
def schema() -> None:
    """The JSON Schema of a job file."""
    click.echo(json.dumps(job_file_schema(), indent=2))
