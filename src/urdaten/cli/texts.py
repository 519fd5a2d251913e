"""`urdaten texts`: a project's texts on the command line."""

from __future__ import annotations

import sys
from contextlib import ExitStack
from pathlib import Path
from typing import IO, Annotated

import typer

from urdaten.cli.connection import database
from urdaten.errors import NotFound

texts = typer.Typer(no_args_is_help=True, help="Texts of a project.")


@texts.callback()
def main() -> None:
    """Texts of a project."""


@texts.command("export")
def export(
    name: Annotated[str, typer.Argument(help="short name of the project, as it stands in addresses")],
    file: Annotated[Path | None, typer.Argument(help="the file to write; the screen unless said")] = None,
    as_: Annotated[
        str, typer.Option("--as", help="jsonl, bio, bilou, conllu, annotations or csv.")
    ] = "jsonl",
    split: Annotated[str, typer.Option(help="Texts of this split alone.")] = "",
    group: Annotated[str, typer.Option(help="Texts of this group alone.")] = "",
    layer: Annotated[str, typer.Option(help="Whose annotation: a layer by its name.")] = "gold",
    unsigned: Annotated[bool, typer.Option(help="Texts without a signed sentence as well.")] = False,
    bare: Annotated[
        bool, typer.Option(help="Columns without remarks, of signed sentences alone, for other programs.")
    ] = False,
    folds: Annotated[int, typer.Option(help="Deal the texts out to so many folds, groups whole.")] = 0,
    seed: Annotated[int, typer.Option(help="Draws the folds.")] = 1,
) -> None:
    """Write the texts with what is marked in them, in an open format."""
    from urdaten.places.desk import acts as desk
    from urdaten.places.team import acts as team
    from urdaten.places.texts.acts import SPLITS, Which

    with database(snapshot=True) as db, ExitStack() as closing:
        project = team.project_by_slug(db, name)
        number = next((one.id for one in desk.read_layers(db, project.id) if one.name == layer), None)
        if number is None and layer != "gold":
            raise NotFound(f"There is no layer “{layer}” in this project.")
        which = Which(splits=[split] if split else SPLITS, group=group)
        wish = desk.CorpusWish(
            format=as_, which=which, layer=number, unsigned=unsigned, bare=bare, folds=folds, seed=seed
        )
        lines = desk.write_out(db, project, wish)
        if file is None:
            sys.stdout.writelines(lines)
            return
        part = file.with_name(f"{file.name}.part")
        closing.callback(part.unlink, missing_ok=True)
        out: IO[str] = closing.enter_context(part.open("w", encoding="utf-8", newline=""))
        out.writelines(lines)
        out.flush()
        part.replace(file)
    print(f"{name} is in {file}.")
