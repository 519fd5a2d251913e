"""Routes by which the corpus is taken out."""

from __future__ import annotations

import tempfile
from itertools import islice
from typing import Annotated, Literal

from fastapi import APIRouter, Query
from fastapi.responses import FileResponse
from pydantic import Field
from starlette.background import BackgroundTask

from urdaten.places.desk import acts
from urdaten.places.team.acts import Project
from urdaten.places.team.wire import OfProject, Shown
from urdaten.places.texts.wire import FilterWish
from urdaten.platform.database import transaction
from urdaten.platform.web import Config, Db

router = APIRouter(prefix="/api/projects/{project}/corpus", tags=["texts"])
# What is shown of a file before it is made.
PREVIEW_TEXTS, PREVIEW_LINES, PREVIEW_SIGNS = 3, 24, 400


class CorpusWish(FilterWish):
    """Which texts, whose annotation, and how it is written."""

    format: Literal["jsonl", "bio", "bilou", "conllu", "annotations", "csv"] = "jsonl"
    layer: int | None = Field(default=None, ge=0, le=2**31 - 1, description="gold unless said")
    unsigned: bool = Field(default=False, description="texts without a signed sentence as well")
    bare: bool = Field(default=False, description="columns without remarks, of signed sentences alone")
    folds: int = Field(default=0, ge=0, le=100, description="0 for none")
    seed: int = Field(default=1, ge=0, le=2**31 - 1)

    def act(self, db: Db, project: Project) -> acts.CorpusWish:
        return acts.CorpusWish(
            format=self.format,
            which=acts.which_of(
                db, project.id, acts.Filter(**{name: getattr(self, name) for name in FilterWish.model_fields})
            ),
            layer=self.layer,
            unsigned=self.unsigned,
            bare=self.bare,
            folds=self.folds,
            seed=self.seed,
        )


class CorpusPreview(Shown):
    lines: list[str] = Field(description="the first ones, cut where they are long")
    more: bool


@router.get("/preview", operation_id="previewCorpus")
def preview(project: OfProject, db: Db, wish: Annotated[CorpusWish, Query()]) -> CorpusPreview:
    """How the file begins that `downloadCorpus` makes."""
    written = acts.write_out(db, project, wish.act(db, project), first=PREVIEW_TEXTS)
    lines = list(islice(written, PREVIEW_LINES + 1))
    shown = [line.rstrip("\r\n") for line in lines[:PREVIEW_LINES]]
    cut = [line if len(line) <= PREVIEW_SIGNS else line[:PREVIEW_SIGNS] + "…" for line in shown]
    return CorpusPreview(lines=cut, more=len(lines) > PREVIEW_LINES)


@router.get("", operation_id="downloadCorpus", response_class=FileResponse)
def download(project: OfProject, settings: Config, wish: Annotated[CorpusWish, Query()]) -> FileResponse:
    """Texts with what is marked in them, in an open format: docs/formats.md says what stands in each."""
    made = acts.format_of(wish.format)
    # Not in memory: it may be large. It goes when it has been sent.
    file = tempfile.NamedTemporaryFile(prefix="urdaten-", suffix=made.suffix)  # noqa: SIM115
    with transaction(settings.database_url, snapshot=True) as db:
        for line in acts.write_out(db, project, wish.act(db, project)):
            file.write(line.encode())
    file.flush()
    return FileResponse(
        file.name,
        media_type=made.media,
        filename=f"{project.slug}{made.suffix}",
        background=BackgroundTask(file.close),
    )
