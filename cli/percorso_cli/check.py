"""The command ``percorso check``: what is wrong with a job file, or what it holds."""

from pathlib import Path

import click

from percorso.errors import JobFileError
from percorso.files.reading import read_job_file
from percorso_cli.options import job_argument


@click.command()
@job_argument
def check(job: Path) -> None:
    """Read a job file and say what is wrong with it, or what it holds."""
    try:
        file = read_job_file(job.read_bytes())
    except JobFileError as error:
        for problem in error.problems:
            click.echo(f"{problem.path}: {problem.message}", err=True)
        raise click.exceptions.Exit(2) from error
    counts = (len(file.circuits), len(file.segments), len(file.devices), len(file.points), len(file.readings))
    words = ("circuits", "segments", "devices", "points", "readings")
    held = ", ".join(f"{count} {word}" for count, word in zip(counts, words, strict=True))
    click.echo(f"{file.name}, {file.vehicle}: {held}; nothing wrong with the file")
