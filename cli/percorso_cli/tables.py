"""``percorso tables``: how sure the figures of each table are, as a page."""

import click

from percorso.tables import as_page


@click.command()
def tables() -> None:
    """Count how the rows of each table are known, as docs/tables.md."""
    click.echo(as_page(), nl=False)
