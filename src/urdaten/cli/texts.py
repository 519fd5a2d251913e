"""`urdaten texts`: a project's texts on the command line."""

from __future__ import annotations

import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO, TYPE_CHECKING, Annotated, Any

import typer

from urdaten.cli.connection import database
from urdaten.errors import BadFile, BadInput, NotFound

if TYPE_CHECKING:
    from urdaten.readers import Document, Refusal

Depth = Annotated[int, typer.Option(help="Of web sites: links away from the address.")]
Pages = Annotated[int, typer.Option(help="Of web sites: pages at most.")]
texts = typer.Typer(no_args_is_help=True, help="Texts of a project.")


@texts.callback()
def main() -> None:
    """Texts of a project."""


@texts.command("read")
def read(
    sources: Annotated[
        list[str],
        typer.Argument(help="files, folders with all that lies in them, and addresses of web sites"),
    ],
    file: Annotated[
        Path | None, typer.Option("--to", help="The file to write; the screen unless said.")
    ] = None,
    depth: Depth = 3,
    pages: Pages = 200,
    kind: Annotated[str, typer.Option(help="What the files are, where it should not be found out.")] = "",
    encoding: Annotated[str, typer.Option(help="How their characters are written, likewise.")] = "",
    per: Annotated[
        str,
        typer.Option(help="One text for each file; or each paragraph or line of plain text, page of a PDF."),
    ] = "file",
    column: Annotated[
        list[str] | None,
        typer.Option(
            metavar="NAME=ROLE",
            help="What a column or field is for: body, title, date, group, order, split, id, meta, none. Can be given again.",
        ),
    ] = None,
    separator: Annotated[str, typer.Option(help="Between the values of a table.")] = "",
    month_first: Annotated[bool, typer.Option(help="3/4/2026 is the fourth of March.")] = False,
    whole_page: Annotated[bool, typer.Option(help="All that a web page shows, menus too.")] = False,
    without_quoted: Annotated[
        bool, typer.Option(help="Mails without what they quote and their signature.")
    ] = False,
) -> None:
    """Print as JSON Lines the texts that files hold; no project is needed. What is refused is told beside."""
    from urdaten.core.formats import write_corpus
    from urdaten.readers import Document, Found, How, Refusal, corpus_of, read_guarded

    how = How(
        kind=kind,
        encoding=encoding,
        per=per,
        roles=_roles(column or []),
        delimiter=separator,
        day_first=not month_first,
        whole_page=whole_page,
        without_quoted=without_quoted,
    )
    texts_read = refused = 0
    columns: set[str] = set()
    with _files(sources, depth, pages) as files, _written(file) as out:
        for _, item in read_guarded(files, how):
            if isinstance(item, Found):
                columns.update(one.name for one in item.columns)
            elif isinstance(item, Document):
                texts_read += 1
                out.writelines(write_corpus([corpus_of(item)]))
                if item.note:
                    print(f"{_where(item)}: {item.note}", file=sys.stderr)
            elif isinstance(item, Refusal):
                refused += 1
                print(f"refused: {_where(item)}: {item.why}", file=sys.stderr)
    told = f"{texts_read} {'text' if texts_read == 1 else 'texts'}, {refused} refused."
    print(told, file=sys.stderr)
    for name in sorted(how.roles.keys() - columns):
        print(
            f"no file has a column “{name}”; there are {', '.join(sorted(columns)) or 'none'}",
            file=sys.stderr,
        )
    if not texts_read:
        raise BadFile("Nothing in these files could be read as a text.")


@texts.command("import")
def bring_in(
    name: Annotated[str, typer.Argument(help="short name of the project, as it stands in addresses")],
    sources: Annotated[
        list[str],
        typer.Argument(help="files, folders with all that lies in them, and addresses of web sites"),
    ],
    plan: Annotated[
        Path | None, typer.Option(help="A file that says how: docs/formats.md tells what stands in it.")
    ] = None,
    by: Annotated[str, typer.Option(help="Login of whoever imports; the project's lead unless said.")] = "",
    look: Annotated[bool, typer.Option("--look", help="Say what would come, and keep nothing.")] = False,
    depth: Depth = 3,
    pages: Pages = 200,
) -> None:
    """Import the texts that files hold into a project: all of them, or none when something fails."""
    from urdaten.cli.connection import settings_of_running
    from urdaten.places.intake import acts as intake
    from urdaten.places.intake.plan import Plan, read_plan
    from urdaten.places.team import acts as team
    from urdaten.platform.accounts import account_by_login
    from urdaten.server.work import KINDS

    assert KINDS
    wanted = read_plan(plan) if plan else Plan()
    settings = settings_of_running()
    with _files(sources, depth, pages) as files, database() as db:
        project = team.project_by_slug(db, name)
        lead = next((m.id for m in team.read_members(db, project.id) if m.role is team.Role.LEAD), None)
        account = account_by_login(db, by).id if by else lead
        if account is None:
            raise NotFound(f"The project {name} has no lead; say who imports with --by.")
        made = intake.begin(db, project.id, account)
        for source, path in files:
            with path.open("rb") as content:
                blocks = iter(lambda stream=content: stream.read(1 << 20), b"")  # type: ignore[misc] # bound at once
                intake.add_file(db, project.id, made.id, source, blocks)
        intake.change_plan(db, project.id, made.id, wanted)
        made = intake.start(db, project.id, account, made.id, intake.LOOK if look else intake.KEEP)
    assert made.job is not None
    said = _done(settings.database_url, project.id, made.job.id)
    with database() as db:
        ended = intake.read_intake(db, project.id, made.id)
        if ended.looked:
            _tell_looked(ended.looked)
        for one in intake.refusals_of(db, project.id, made.id):
            print(f"refused: {_where(one)}: {one.why}", file=sys.stderr)
        if ended.state != "kept":
            # Only what came of it is worth keeping.
            intake.remove_intake(db, project.id, made.id)
    print(said)


@contextmanager
def _files(sources: list[str], depth: int, pages: int) -> Iterator[list[tuple[str, Path]]]:
    """The files of all sources by their names; pages of web sites are fetched first, into a folder that goes afterwards."""
    from urdaten.readers import Crawl, Refusal, fetch_site, files_of

    with tempfile.TemporaryDirectory(prefix="urdaten-") as folder:
        files: list[tuple[str, Path]] = []
        for source in sources:
            if not source.startswith(("http://", "https://")):
                files += files_of(Path(source))
                continue
            # Whoever sits at the machine may ask it for whatever it can reach.
            for item in fetch_site(Crawl(start=source, depth=depth, pages=pages, local=True)):
                if isinstance(item, Refusal):
                    print(f"left out: {_where(item)}: {item.why}", file=sys.stderr)
                    continue
                path = Path(folder, str(len(files)))
                path.write_bytes(item.data)
                files.append((item.address, path))
                print(f"{len(files)} {item.address}", file=sys.stderr)
        yield files


def _done(database_url: str, project_id: int, job_id: int) -> str:
    """Wait for a job, which is done here where no worker takes it; Ctrl-C stops it. Raises BadInput with why it failed."""
    import threading

    from rich.console import Console
    from rich.progress import Progress

    from urdaten.platform.database import transaction
    from urdaten.platform.jobs import JobState, jobs_by_id, run_job, stop_job

    working = threading.Thread(target=run_job, args=(database_url, job_id), daemon=True)
    working.start()
    with Progress(console=Console(stderr=True)) as bar:
        task = bar.add_task("reading", total=None)
        while True:
            try:
                working.join(0.3)
                with transaction(database_url) as db:
                    job = jobs_by_id(db, [job_id])[job_id]
                bar.update(
                    task, completed=job.done, total=job.total or None, description=job.unit or "reading"
                )
                if job.ended and not working.is_alive():
                    break
            except KeyboardInterrupt:
                with transaction(database_url) as db:
                    stop_job(db, project_id, job_id)
    if job.state is not JobState.DONE:
        raise BadInput(job.message)
    return job.message


def _tell_looked(looked: dict[str, Any]) -> None:
    """What was found, in lines."""
    for file in looked["files"]:
        kind = (
            f" ({file['kind']}{', ' + file['encoding'] if file.get('encoding') else ''})"
            if file["kind"]
            else ""
        )
        print(f"{file['name']} ({kind}): {file['texts']} texts, {file['refused']} refused")
    for column in looked["columns"]:
        print(f"column {column['name']} = {column['role']}")
    for name in looked["unknown"]:
        print(f"no file has a column “{name}”", file=sys.stderr)
    for label in looked["labels"]:
        print(f"{label['label']}: {label['spans']} spans, {label['code'] or 'left out'}")
    for one in looked["refusals"]:
        place = f"{one['source']}, {one['place']}" if one["place"] else one["source"]
        print(f"refused: {place}: {one['why']}", file=sys.stderr)


def _where(item: Document | Refusal) -> str:
    return f"{item.source}, {item.place}" if item.place else item.source


def _roles(given: list[str]) -> dict[str, str]:
    roles = {}
    for one in given:
        name, equals, role = one.rpartition("=")
        if not equals or not name:
            raise BadInput(f"A column is named as NAME=ROLE, such as Remark=body; not {one!r}.")
        roles[name] = role
    return roles


@contextmanager
def _written(file: Path | None) -> Iterator[IO[str]]:
    """Where to write: the screen, or a file that is there when it is whole."""
    if file is None:
        yield sys.stdout
        return
    part = file.with_name(f"{file.name}.part")
    try:
        with part.open("w", encoding="utf-8", newline="") as out:
            yield out
        part.replace(file)
    finally:
        part.unlink(missing_ok=True)


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

    with database(snapshot=True) as db:
        project = team.project_by_slug(db, name)
        number = next((one.id for one in desk.read_layers(db, project.id) if one.name == layer), None)
        if number is None and layer != "gold":
            raise NotFound(f"There is no layer “{layer}” in this project.")
        which = Which(splits=[split] if split else SPLITS, group=group)
        wish = desk.CorpusWish(
            format=as_, which=which, layer=number, unsigned=unsigned, bare=bare, folds=folds, seed=seed
        )
        with _written(file) as out:
            out.writelines(desk.write_out(db, project, wish))
    if file is not None:
        print(f"{name} is in {file}.")
