"""Routes of projects, their members and their invitations."""

from __future__ import annotations

from fastapi import APIRouter

from urdaten.core.text import LANGUAGES
from urdaten.places.team import acts
from urdaten.places.team.wire import (
    Belongs,
    Binned,
    Id,
    InvitationShown,
    InvitationWish,
    LanguageShown,
    Lead,
    MemberShown,
    NameWish,
    NewInvitationShown,
    OfProject,
    ProjectShown,
    RoleWish,
    TeamShown,
)
from urdaten.platform.web import Config, Db, Me

router = APIRouter(prefix="/api", tags=["team"])


def shown(belongs: acts.Belonging) -> ProjectShown:
    return ProjectShown.model_validate(vars(belongs.project) | {"role": belongs.role})


@router.get("/languages", operation_id="listLanguages")
def languages(_me: Me) -> list[LanguageShown]:
    """The language packs that a project can be begun with."""
    return [LanguageShown(code=code, name=name) for code, name in LANGUAGES.items()]


@router.get("/projects/{project}", operation_id="readProject")
def read(belongs: Belongs) -> ProjectShown:
    return shown(belongs)


@router.put("/projects/{project}", operation_id="renameProject")
def rename(wish: NameWish, belongs: Belongs, _me: Lead, db: Db) -> ProjectShown:
    project = acts.rename_project(db, belongs.project.id, wish.name)
    return shown(acts.Belonging(project=project, role=belongs.role))


@router.delete("/projects/{project}", status_code=204, operation_id="binProject")
def move_to_bin(project: OfProject, _me: Lead, db: Db) -> None:
    """Move the project to the bin, from which a lead can bring it back for 30 days."""
    acts.bin_project(db, project.id)


@router.post("/bin/{project}/restore", operation_id="restoreProject")
def restore(belongs: Binned, db: Db) -> ProjectShown:
    """Bring a project back from the bin."""
    project = acts.restore_project(db, belongs.project.id)
    return shown(acts.Belonging(project=project, role=belongs.role))


@router.post("/bin/{project}/delete", status_code=204, operation_id="deleteProject")
def delete(wish: NameWish, belongs: Binned, db: Db) -> None:
    """Delete a project in the bin for good; its name has to be given."""
    acts.delete_project(db, belongs.project.id, wish.name)


@router.post("/projects/{project}/leave", status_code=204, operation_id="leaveProject")
def leave(belongs: Belongs, me: Me, db: Db) -> None:
    acts.remove_member(db, belongs.project.id, me.id)


@router.get("/projects/{project}/team", operation_id="readTeam")
def team(belongs: Belongs, db: Db) -> TeamShown:
    number = belongs.project.id
    invitations = acts.read_invitations(db, number) if belongs.role is acts.Role.LEAD else []
    return TeamShown(
        members=[MemberShown.model_validate(member) for member in acts.read_members(db, number)],
        invitations=[InvitationShown.model_validate(one) for one in invitations],
    )


@router.put("/projects/{project}/team/{account_id}", operation_id="changeRole")
def change_role(account_id: Id, wish: RoleWish, project: OfProject, _me: Lead, db: Db) -> MemberShown:
    return MemberShown.model_validate(acts.change_role(db, project.id, account_id, wish.role))


@router.delete("/projects/{project}/team/{account_id}", status_code=204, operation_id="removeMember")
def remove_member(account_id: Id, project: OfProject, _me: Lead, db: Db) -> None:
    acts.remove_member(db, project.id, account_id)


@router.post("/projects/{project}/invitations", status_code=201, operation_id="invite")
def invite(
    wish: InvitationWish, project: OfProject, me: Lead, db: Db, settings: Config
) -> NewInvitationShown:
    """A link that makes somebody a member, once."""
    made, token = acts.invite(db, settings, project.id, me.id, wish.role, wish.note)
    return NewInvitationShown.model_validate(vars(made) | {"token": token})


@router.delete(
    "/projects/{project}/invitations/{invitation_id}", status_code=204, operation_id="withdrawInvitation"
)
def withdraw_invitation(invitation_id: Id, project: OfProject, _me: Lead, db: Db) -> None:
    acts.withdraw_invitation(db, project.id, invitation_id)
