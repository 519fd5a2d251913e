"""The pipeline of a project with all that it needs, from every place that has a part of it."""

from __future__ import annotations

from sqlalchemy.orm import Session

from urdaten.core.bundle import Bundle, to_bytes
from urdaten.errors import Stopped
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.records import acts as records
from urdaten.places.team import acts as team
from urdaten.places.team.acts import Project
from urdaten.platform.database import transaction
from urdaten.platform.jobs import JobContext, handles
from urdaten.server.projects import scheme_of


def bundle_of_version(db: Session, project: Project, version: pipeline.Version) -> Bundle:
    """A version with lists, rules, taggers, types and record templates as they are now."""
    templates = [one.template for one in records.read_templates(db, project.id)]
    learnt = records.read_learnt(db, project.id)
    return pipeline.bundle_of(db, project, version.plan, scheme_of(db, project), templates, learnt)


@handles(pipeline.PUBLISHING_JOB)
def publish(context: JobContext) -> str:
    """Put all that a version needs into one file, and make it the published one."""
    number = context.job.params["version"]
    context.progress(0, 1, "files", "Everything that the version needs is put into one file.")
    with transaction(context.database_url) as db:
        project = team.project_by_id(db, context.project_id)
        team.wait_for_writers(db, project.id)
        bundle = bundle_of_version(db, project, pipeline.read_version(db, project.id, number))
    data = to_bytes(bundle)
    if context.should_stop():
        raise Stopped("Publishing was stopped; what was published before stays.")
    said = f"Version {number} is published."
    with transaction(context.database_url) as db:
        pipeline.keep_published(db, context.project_id, number, data)
        context.conclude(db, said)
    return said
