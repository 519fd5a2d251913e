"""The jobs of an import: looking into its files, and keeping what is in them."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable, Generator, Iterable, Iterator, Sequence
from contextlib import ExitStack, closing
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from urdaten.core.text import Like, like_earlier
from urdaten.errors import BadInput, Clash, Stopped
from urdaten.places.intake import acts
from urdaten.places.intake.coming import begun, with_sentences
from urdaten.places.intake.plan import Plan
from urdaten.places.team import acts as team
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.database import MANY, transaction
from urdaten.platform.jobs import JobContext, handles
from urdaten.platform.settings import Settings
from urdaten.readers import Beat, Crawl, Document, Ended, Fetched, Item, Refusal, fetch_site, read_guarded

# How often progress is told, and whether to stop is asked, in seconds.
_TELL_S = 0.5
_STOPPED = "Stopped; nothing was kept."


class _Pace:
    """Something to be done now and then."""

    def __init__(self, seconds: float = _TELL_S) -> None:
        self._seconds, self._last = seconds, 0.0

    def __call__(self) -> bool:
        now = time.monotonic()
        if now - self._last < self._seconds:
            return False
        self._last = now
        return True


def _stop_look(context: JobContext) -> Callable[[], bool]:
    due = _Pace()
    return lambda: due() and context.should_stop()


def _intake_of(context: JobContext) -> acts.Intake:
    with transaction(context.database_url) as db:
        intake = acts.read_intake(db, context.project_id, context.job.params["intake"])
    if intake.version != context.job.params["version"]:
        raise Clash("The import was changed since this was asked for; ask again.")
    return intake


def _deciding(db: Session, project_id: int, plan: Plan) -> acts.Deciding:
    """Raises BadInput for a label's code that the scheme does not have."""
    present = types.list_types(db, project_id)
    codes = {one.code for one in present}
    for label, code in plan.labels.items():
        if code and code not in codes:
            raise BadInput(f"“{label}” stands for {code}, and the scheme has no such type.", field="labels")
    by_name = {one.name.lower(): one.code for one in present}
    known = by_name | {code.lower(): code for code in codes}
    project = team.project_by_id(db, project_id)
    return acts.Deciding(plan, texts.held_digests(db, project_id), known, project.overlap)


def _read(context: JobContext, intake: acts.Intake, folder: Path) -> Iterator[tuple[int, Item]]:
    """What the files hold, with progress by their bytes."""
    with transaction(context.database_url) as db:
        files = acts.files_into(db, intake.id, folder)
    sizes = [path.stat().st_size for _, path in files]
    due, done = _Pace(), 0
    count = 0
    for number, item in read_guarded(files, intake.plan.how, stop=_stop_look(context)):
        if isinstance(item, Ended):
            done += sizes[number]
            continue
        beats = f"{item.done} of {item.total} {item.unit} of {item.source}" if isinstance(item, Beat) else ""
        count += not beats
        if due():
            context.progress(done >> 10, sum(sizes) >> 10, "kB read", beats or f"{count} texts so far")
        yield number, item


@handles(acts.LOOK)
def look(context: JobContext) -> str:
    """Read every file by the plan and keep what was found, beside the plan."""
    return _look(context, _intake_of(context))


@handles(acts.FETCH)
def fetch(context: JobContext) -> str:
    """Fetch the pages of a site, keep them as files of the import, and look into them."""
    intake = _intake_of(context)
    crawl = Crawl(**context.job.params["crawl"], local=Settings().fetch_local)
    pages: list[Fetched] = []
    refusals: list[Refusal] = []
    due = _Pace()
    for item in fetch_site(crawl, _stop_look(context)):
        if isinstance(item, Refusal):
            refusals.append(item)
        else:
            pages.append(item)
        if due():
            context.progress(len(pages), crawl.pages, "pages at most")
    if not pages:
        raise BadInput(refusals[0].why if refusals else "There are no pages at this address.", field="start")
    with transaction(context.database_url) as db:
        intake = acts.keep_pages(db, context.project_id, intake.id, pages, refusals)
    return _look(context, intake)


def _look(context: JobContext, intake: acts.Intake) -> str:
    with transaction(context.database_url) as db:
        deciding = _deciding(db, context.project_id, intake.plan)
        looking = acts.Look(deciding)
        looking.also_refused(acts.refusals_of(db, context.project_id, intake.id))
    with tempfile.TemporaryDirectory(prefix="urdaten-") as folder:
        for number, item in _read(context, intake, Path(folder)):
            looking.take(number, item)
    context.progress(looking.texts, looking.texts, "texts", "Texts that are nearly the same are looked for.")
    with transaction(context.database_url, snapshot=True) as db:
        titles, alike = _alike(db, context.project_id, looking.arrivals)
        carried = _would_carry(db, context, looking.arrivals, deciding)
    with transaction(context.database_url) as db:
        told = looking.told(alike, titles, carried)
        kept = acts.keep_looked(db, context.project_id, intake.id, intake.version, told)
        said = (
            f"{looking.texts} {'text' if looking.texts == 1 else 'texts'} found, {looking.refused} refused."
        )
        context.conclude(db, said if kept else "The import was changed meanwhile; look again.")
    return said


def _alike(db: Session, project_id: int, arrivals: Sequence[acts.Arrival]) -> tuple[list[str], list[Like]]:
    """Titles of the project's texts, and which of those that come are nearly the same as one of them or one before.

    What comes from the very same place as the other is a new version of it, not one that stands twice.
    """
    titles: list[str] = []
    bodies: list[str] = []
    places: list[tuple[str, str]] = []
    for portion in texts.in_portions(db, project_id, texts.Which()):
        titles += [text.title for text in portion]
        bodies += [text.body for text in portion]
        places += [(text.source, text.place) for text in portion]
    here = len(bodies)
    bodies += [one.text.body for one in arrivals]
    alike = [
        one
        for one in like_earlier(bodies, since=here)
        if one.earlier >= here or places[one.earlier] != _place(arrivals[one.text - here])
    ]
    return titles, alike


def _place(one: acts.Arrival) -> tuple[str, str]:
    return one.text.source, one.text.place


def _sources(arrivals: Iterable[acts.Arrival]) -> set[str]:
    return {one.text.source for one in arrivals}


def _would_carry(
    db: Session, context: JobContext, arrivals: Sequence[acts.Arrival], deciding: acts.Deciding
) -> dict[str, Any] | None:
    """What would come over from versions that are here; None where there are none."""
    carrying = acts.Carrying(db, context.project_id, _sources(arrivals), deciding.again)
    project = team.project_by_id(db, context.project_id)
    again = (one for one in arrivals if one.text.source in carrying.sources)
    for portion in with_sentences(project, again):
        for one in portion:
            carrying.take(one)
    return acts.carried_counts(carrying) if carrying.versions else None


@handles(acts.KEEP)
def keep(context: JobContext) -> str:
    """Read every file by the plan and keep its texts: all of them, or none when it is stopped or fails."""
    intake = _intake_of(context)
    with transaction(context.database_url) as db:
        deciding = _deciding(db, context.project_id, intake.plan)
        project = team.project_by_id(db, context.project_id)
        scheme = types.scheme_version(db, project.id)
        # Pages of a site that were left out when it was fetched.
        left_out = sum(1 for _ in acts.refusals_of(db, project.id, intake.id))
        versions = acts.has_sources(db, project.id)
    refusals: list[Refusal] = []
    with tempfile.TemporaryDirectory(prefix="urdaten-") as folder, ExitStack() as stack:
        source = stack.enter_context(closing(_coming(context, intake, Path(folder), deciding, refusals)))
        # To tell what is nearly the same, or a new version, all have to be there.
        coming = list(source) if versions or intake.plan.near == "leave out" else begun(source)
        if intake.plan.near == "leave out":
            coming = _apart(context, list(coming), refusals)
        with transaction(context.database_url) as db:
            # Nobody changes the scheme from here on; whoever did before has changed what was decided.
            team.hold(db, project.id)
            if types.scheme_version(db, project.id) != scheme:
                raise Clash("The scheme was changed while files were read; nothing was kept. Import again.")
            sources = _sources(coming) if versions else set()
            carrying = acts.Carrying(db, project.id, sources, deciding.again)
            keeping = acts.Keeping(db, project, intake.plan, context.job.params["account"], carrying)
            _keep_all(context, project, keeping, coming)
            report = {
                "texts": keeping.texts,
                "sentences": keeping.sentences,
                "spans": keeping.spans,
                "signed": keeping.signed,
                "same": deciding.same,
                "twice": deciding.twice,
                "refused": left_out + len(refusals),
                "left_out": dict(deciding.left_out),
                "carried": keeping.carried() if carrying.versions else None,
            }
            acts.keep_report(db, project.id, intake.id, report, refusals)
            said = f"{keeping.texts} {'text' if keeping.texts == 1 else 'texts'} imported, {report['refused']} refused."
            if carrying.versions:
                said += (
                    f" Of new versions {carrying.signed} signed and {carrying.begun} begun sentences came over, "
                    f"{len(carrying.remains())} signed ones are left to look at."
                )
            context.conclude(db, said)
    if keeping.texts >= MANY:
        texts.settle(context.database_url)
    return said


def _coming(
    context: JobContext, intake: acts.Intake, folder: Path, deciding: acts.Deciding, refusals: list[Refusal]
) -> Generator[acts.Arrival]:
    """What the files hold that is to be kept; the rest goes to the refusals."""
    for _, item in _read(context, intake, folder):
        made = deciding.take(item) if isinstance(item, Document) else item
        if isinstance(made, Refusal):
            refusals.append(made)
        elif isinstance(made, acts.Arrival):
            yield made


def _keep_all(
    context: JobContext, project: team.Project, keeping: acts.Keeping, coming: Iterable[acts.Arrival]
) -> None:
    """Keep what comes. While it is still read, progress is told by how much has been."""
    should_stop, due = _stop_look(context), _Pace()
    with closing(with_sentences(project, iter(coming))) as portions:
        for portion in portions:
            if should_stop():
                raise Stopped(_STOPPED)
            keeping.add(portion)
            if isinstance(coming, list) and due():
                context.progress(keeping.texts, len(coming), "texts kept")
    if not keeping.texts:
        raise BadInput("No text is left to keep: all were refused, or are here already.", field="files")
    keeping.end()


def _apart(context: JobContext, arrivals: list[acts.Arrival], refusals: list[Refusal]) -> list[acts.Arrival]:
    """Without those that are nearly the same as an earlier one."""
    with transaction(context.database_url, snapshot=True) as db:
        titles, alike = _alike(db, context.project_id, arrivals)
    near = {like.text - len(titles): like for like in alike}
    for number, like in near.items():
        text = arrivals[number].text
        here = like.earlier < len(titles)
        other = titles[like.earlier] if here else arrivals[like.earlier - len(titles)].text.draft.title
        refusals.append(
            Refusal(
                source=text.source,
                place=text.place,
                why=f"It is nearly the same as “{other}” ({like.share:.0%} of their runs of words).",
                content=text.body[:2000],
            )
        )
    return [one for number, one in enumerate(arrivals) if number not in near]
