"""What is done to rules and fragments can be undone; what they find says why; and they can be held against all texts."""

from __future__ import annotations

from typing import Any

import pytest

from acting import act, stave_pages
from conftest import Api
from urdaten.core.rules import many
from urdaten.places.pipeline import jobs
from urdaten.places.pipeline.acts import trial
from urdaten.platform.jobs import JobContext

BODY = "Amber Quay is in. The amber is dry. Pilot Tarn sails at 0600."
RULE: dict[str, Any] = {"name": "capitals", "type": "VES", "pattern": "[capital] capital"}


@pytest.fixture
def port(api: Api) -> Api:
    api.post("/types", {"code": "VES", "name": "vessel", "key": "v", "hue": 1})
    api.post("/types", {"code": "PER", "name": "person", "key": "p", "hue": 2})
    api.post("/texts", {"title": "33/1", "body": BODY})
    return api


def colleague(api: Api) -> Api:
    """Another lead of the project."""
    jo = api.other("jo")
    api.put(f"/team/{jo.request('GET', '/api/me').json()['id']}", {"role": "lead"})
    return jo


def undo(api: Api) -> str:
    latest = api.get("/rules/acts/latest")["act"]
    return str(api.post(f"/rules/acts/{latest['id']}/undo", expect=200)["left"])


def rules(api: Api) -> list[dict[str, Any]]:
    told = ("name", "type", "pattern", "on", "priority", "must_find", "about")
    return [{name: rule[name] for name in told} for rule in api.get("/rules")]


def sign(api: Api, number: int, *spans: tuple[int, int, str]) -> None:
    item = api.get("/desk/queue")["items"][number]
    wanted = [{"start": a, "end": b, "type": code} for a, b, code in spans]
    version = api.get(f"/desk/sentences/{item['id']}")["annotation"]["version"]
    what = act("sign", version, wanted) if spans else act("sign as empty", version)
    api.put(f"/desk/sentences/{item['id']}", what)


def sentence(api: Api, number: int) -> int:
    return int(api.get("/desk/queue")["items"][number]["id"])


def test_each_act_on_rules_can_be_undone_back_to_the_first(port: Api) -> None:
    assert port.get("/rules/acts/latest")["act"] is None
    first = port.post("/rules", RULE)
    port.post("/rules", RULE | {"name": "second"})
    before = rules(port)
    path = f"/rules/{first['id']}"
    port.put(path, RULE | {"pattern": "[figure]", "priority": "low", "on": False, "version": 1})
    changed = rules(port)
    port.put(f"{path}/place", {"place": 1}, expect=204)
    moved = rules(port)
    assert [rule["name"] for rule in moved] == ["second", "capitals"]
    # Saved as it was: nothing was done.
    port.put(path, RULE | {"pattern": "[figure]", "priority": "low", "on": False, "version": 2})
    port.delete(path)
    for wanted in (moved, changed, before, before[:1], []):
        assert undo(port) == ""
        assert rules(port) == wanted
    assert port.get("/rules/acts/latest")["act"] is None


def test_a_deleted_rule_comes_back_where_it_was_and_finds_what_it_found(port: Api) -> None:
    for name in ("a", "b", "c"):
        port.post("/rules", RULE | {"name": name})
    found = port.get("/rules")
    port.delete(f"/rules/{found[1]['id']}")
    # What is found is counted without it, and then with it.
    assert [rule["finds"] for rule in port.get("/rules")] == [rule["finds"] for rule in found[::2]]
    assert undo(port) == ""
    back = port.get("/rules")
    assert [(r["id"], r["name"], r["finds"]) for r in back] == [
        (r["id"], r["name"], r["finds"]) for r in found
    ]
    assert back[1]["version"] != 0


def test_what_has_changed_since_stays_and_says_so(port: Api) -> None:
    first = port.post("/rules", RULE)
    path = f"/rules/{first['id']}"
    port.put(path, RULE | {"about": "mine", "version": 1})
    other = colleague(port)
    other.put(path, RULE | {"about": "theirs", "version": 2})
    assert undo(port) == "it has been changed since"
    assert rules(port)[0]["about"] == "theirs"
    # The next one that would be undone is the one before.
    assert port.get("/rules/acts/latest")["act"]["said"] == "the new rule “capitals”"
    # Everybody undoes their own.
    assert other.get("/rules/acts/latest")["act"]["said"] == "the change of the rule “capitals”"


def test_a_name_that_another_has_got_is_not_taken_back(port: Api) -> None:
    first = port.post("/rules", RULE)
    port.delete(f"/rules/{first['id']}")
    colleague(port).post("/rules", RULE)
    assert undo(port) == "another one is called “capitals” now"
    assert len(rules(port)) == 1


def test_a_rule_of_a_type_that_is_gone_does_not_come_back(port: Api) -> None:
    first = port.post("/rules", RULE | {"type": "PER"})
    port.delete(f"/rules/{first['id']}")
    per = next(t for t in port.get("/types")["types"] if t["code"] == "PER")
    port.post(f"/types/{per['id']}/retire", {"scheme": port.get("/types")["version"]}, expect=204)
    assert undo(port) == "its type is not in the scheme any more"


def test_acts_are_undone_once_and_only_in_their_project(port: Api) -> None:
    port.post("/rules", RULE)
    latest = port.get("/rules/acts/latest")["act"]
    assert undo(port) == ""
    port.post(f"/rules/acts/{latest['id']}/undo", expect=409)
    port.post("/rules/acts/9999/undo", expect=404)
    other = port.request("POST", "/api/projects", json={"name": "Other", "language": "en"}).json()["slug"]
    port.post("/rules", RULE)
    latest = port.get("/rules/acts/latest")["act"]
    assert port.request("GET", f"/api/projects/{other}/rules/acts/latest").json() == {"act": None}
    assert port.request("POST", f"/api/projects/{other}/rules/acts/{latest['id']}/undo").status_code == 404
    assert len(rules(port)) == 1
    begun = port.post("/rules/trials", RULE, expect=202)
    path = f"/api/projects/{other}/rules/trials/{begun['job']['id']}"
    assert port.request("GET", path).status_code == 404


def test_fragments_are_undone_with_the_names_that_rules_use(port: Api) -> None:
    made = port.post("/rules/fragments", {"name": "two", "pattern": "2 capital"})
    path = f"/rules/fragments/{made['id']}"
    port.post("/rules", RULE | {"pattern": "[use(two)]"})
    port.put(path, {"name": "pair", "pattern": "2 capital", "version": 1})
    assert rules(port)[0]["pattern"] == "[use(pair)]"
    assert undo(port) == ""
    assert rules(port)[0]["pattern"] == "[use(two)]"
    assert [one["name"] for one in port.get("/rules/fragments")] == ["two"]
    # The rule goes, then the fragment; the fragment comes back, and then the rule that uses it.
    assert undo(port) == ""
    port.delete(path)
    assert undo(port) == ""
    assert port.get("/rules/fragments")[0]["pattern"] == "2 capital"


def test_a_new_fragment_that_is_used_stays(port: Api) -> None:
    port.post("/rules/fragments", {"name": "two", "pattern": "2 capital"})
    colleague(port).post("/rules", RULE | {"pattern": "[use(two)]"})
    assert undo(port) == "it is used by “capitals”"
    assert len(port.get("/rules/fragments")) == 1


def test_a_fragment_does_not_become_again_what_its_users_cannot_read(port: Api) -> None:
    made = port.post("/rules/fragments", {"name": "two", "pattern": "optional capital"})
    port.put(f"/rules/fragments/{made['id']}", {"name": "two", "pattern": "2 capital", "version": 1})
    # Marks at least one word only as the fragment is now.
    colleague(port).post("/rules", RULE | {"pattern": "[use(two)]"})
    assert undo(port).startswith("then something could not be read: ")
    assert port.get("/rules/fragments")[0]["pattern"] == "2 capital"


def test_a_rule_says_which_part_took_which_words(port: Api) -> None:
    made = port.post(
        "/rules", RULE | {"pattern": "'pilot' [1 or more capital] lemma('sail')\nunless 'dry' in sentence"}
    )
    start = BODY.index("Tarn")
    told = port.get("/rules/why", sentence=sentence(port, 2), start=start, end=start + 4, type="VES")
    (why,) = told
    assert (why["id"], why["name"], why["takes"]) == (made["id"], "capitals", False)
    assert [(slot["words"], slot["marked"]) for slot in why["slots"]] == [
        ("Pilot", False),
        ("Tarn", True),
        ("sails", False),
    ]
    assert why["slots"][1]["said"] == "a word with a capital"
    assert why["conditions"] == ["Not where “dry” stands elsewhere in the sentence."]
    # What no rule marks is no rule's.
    assert port.get("/rules/why", sentence=sentence(port, 2), start=start, end=start + 4, type="PER") == []
    port.get("/rules/why", expect=404, sentence=99_999, start=0, end=1, type="VES")


def test_what_is_repeated_is_one_part(port: Api) -> None:
    port.post("/rules", RULE | {"pattern": "[2 capital]"})
    ((slot,),) = [
        one["slots"]
        for one in port.get("/rules/why", sentence=sentence(port, 0), start=0, end=10, type="VES")
    ]
    assert slot["words"] == "Amber Quay"


def test_where_nothing_is_suggested_no_rule_says_why(port: Api) -> None:
    port.post("/texts", {"title": "t", "body": "Amber Quay.", "split": "test"})
    port.post("/rules", RULE)
    port.get("/rules/why", expect=403, sentence=sentence(port, 3), start=0, end=5, type="VES")


DROPS = {"name": "no pilots", "type": "VES", "pattern": "'pilot' [found(VES)]\ndrop VES"}


def dropping(api: Api) -> dict[str, Any]:
    """A list that finds two names, and a rule that takes one of them away."""
    made = api.post("/lists", {"name": "vessels", "type": "VES"})
    for name in ("Amber Quay", "Tarn"):
        api.post(f"/lists/{made['id']}/entries", {"preferred": name})
    shown: dict[str, Any] = api.post("/rules", DROPS)
    return shown


def test_a_rule_that_takes_spans_away_counts_them(port: Api) -> None:
    made = dropping(port)
    assert (made["takes"], made["finds"], made["judged"]) == (True, 1, 0)
    sign(port, 2)
    (shown,) = port.get("/rules")
    assert (shown["finds"], shown["right"], shown["judged"], shown["alone"]) == (1, 1, 1, 1)
    path = f"/rules/{made['id']}/finds"
    (stave,) = port.get(path, outcome="right")["staves"]
    assert [BODY[s["start"] : s["end"]] for s in stave["lanes"]["rules"]] == ["Tarn"]
    assert not stave["differs"]
    # It is wrong to take away what is gold.
    tarn = BODY.index("Tarn")
    sign(port, 2, (tarn, tarn + 4, "VES"))
    (shown,) = port.get("/rules")
    assert (shown["right"], shown["judged"]) == (0, 1)
    (stave,) = port.get(path, outcome="wrong")["staves"]
    assert stave["differs"]
    assert port.get(path, outcome="right")["staves"] == []
    trial = port.post("/rules/try", DROPS | {"rule": made["id"]}, expect=200)
    assert (trial["takes"], trial["finds"], trial["right"], trial["judged"]) == (True, 1, 0, 1)


def test_the_desk_says_what_a_rule_took_away_and_leaves_it_out_of_the_answer(port: Api) -> None:
    dropping(port)
    opened = port.get(f"/desk/sentences/{sentence(port, 2)}")
    (span,) = opened["lanes"]["lists"]
    assert (span["taken"], span["overruled"]) == ("no pilots", "taken away by the rule “no pilots”")
    assert opened["resolved"] == []
    (why,) = port.get(
        "/rules/why", sentence=opened["id"], start=span["start"], end=span["end"], type=span["type"]
    )
    assert why["takes"] is True
    other = port.get(f"/desk/sentences/{sentence(port, 0)}")
    assert [one["taken"] for one in other["lanes"]["lists"]] == [""]
    assert len(other["resolved"]) == 1


def test_a_rule_takes_away_spans_of_its_types_alone(port: Api) -> None:
    dropping(port)
    made = port.post("/lists", {"name": "people", "type": "PER"})
    port.post(f"/lists/{made['id']}/entries", {"preferred": "Tarn"})
    opened = port.get(f"/desk/sentences/{sentence(port, 2)}")
    assert {s["type"]: s["taken"] for s in opened["lanes"]["lists"]} == {"VES": "no pilots", "PER": ""}
    assert [s["type"] for s in opened["resolved"]] == ["PER"]
    assert port.get("/rules")[0]["finds"] == 1


def test_a_rule_is_tried_and_told_of_after_what_those_before_it_have_left(port: Api) -> None:
    found = RULE | {"pattern": "[found(VES)]", "type": "PER"}
    first = port.post("/rules", found | {"name": "first"})
    made = dropping(port)
    assert port.post("/rules/try", found, expect=200)["finds"] == 1
    assert port.post("/rules/try", found | {"rule": made["id"]}, expect=200)["finds"] == 2
    # What a later rule takes away was there when this one looked.
    tarn = BODY.index("Tarn")
    (why,) = port.get("/rules/why", sentence=sentence(port, 2), start=tarn, end=tarn + 4, type="PER")
    assert (why["id"], [slot["words"] for slot in why["slots"]]) == (first["id"], ["Tarn"])


def test_a_list_is_worth_what_it_finds_itself_whatever_rules_take_away(port: Api) -> None:
    dropping(port)
    (shown,) = port.get("/lists")
    page = port.get(f"/lists/{shown['id']}/finds")
    assert shown["finds"] == sum(len(stave["lanes"]["lists"]) for stave in page["staves"]) == 2


@pytest.mark.parametrize(
    ("first", "second", "wanted"),
    [
        ("usual", "usual", "Amber Quay"),
        ("high", "usual", "Amber"),
        ("usual", "low", "Amber"),
        ("low", "high", "Amber Quay"),
        ("low", "usual", "Amber Quay"),
        ("high", "high", "Amber Quay"),
    ],
)
def test_priority_decides_where_rules_meet(port: Api, first: str, second: str, wanted: str) -> None:
    port.post("/rules", RULE | {"pattern": "[capital] capital", "name": "short", "priority": first})
    port.post("/rules", RULE | {"pattern": "[2 capital]", "name": "long", "type": "PER", "priority": second})
    opened = port.get(f"/desk/sentences/{sentence(port, 0)}")
    assert len(opened["lanes"]["rules"]) == 2
    (span,) = opened["resolved"]
    assert BODY[span["start"] : span["end"]] == wanted
    found = port.get("/desk/queue/ordered", source="together", type="PER")["items"]
    assert len(found) == (2 if wanted == "Amber Quay" else 0)


def test_priority_is_one_of_three(port: Api) -> None:
    port.post("/rules", RULE | {"priority": "utmost"}, expect=422)


def test_gold_that_no_rule_finds_opens_its_sentences(port: Api) -> None:
    made = port.post("/rules", RULE)
    sign(port, 0, (0, 5, "VES"), (6, 10, "PER"))
    tarn = BODY.index("Tarn")
    sign(port, 2, (tarn, tarn + 4, "VES"))
    (shown,) = port.get("/rules")
    assert (shown["missed"], shown["alone"]) == (1, 1)
    path = f"/rules/{made['id']}/missed"
    (stave,) = port.get(path)["staves"]
    assert stave["sentence_id"] == sentence(port, 2)
    assert [s["start"] for s in stave["lanes"]["gold"]] == [tarn]
    assert stave_pages(port, path) == [[stave]]
    # Another rule finds it: it is missed no more, and what both find nobody finds alone.
    port.post("/rules", RULE | {"name": "all", "pattern": "[capital]"})
    again = {rule["name"]: rule for rule in port.get("/rules")}
    assert [again[name]["missed"] for name in ("capitals", "all")] == [0, 0]
    assert [again[name]["alone"] for name in ("capitals", "all")] == [0, 1]
    assert port.get(path)["staves"] == []
    (alone,) = port.get(f"/rules/{again['all']['id']}/finds", outcome="alone")["staves"]
    assert alone["sentence_id"] == sentence(port, 2)
    assert port.get(f"/rules/{made['id']}/finds", outcome="alone")["total"] == 0


def test_what_a_rule_takes_away_is_missed_and_what_is_not_signed_is_not(port: Api) -> None:
    dropping(port)
    port.post("/rules", RULE)
    tarn = BODY.index("Tarn")
    sign(port, 2, (tarn, tarn + 4, "VES"))
    number = sentence(port, 1)
    amber = BODY.index("amber")
    draft = act("mark", 0, [{"start": amber, "end": amber + 5, "type": "VES"}])
    port.put(f"/desk/sentences/{number}", draft)
    assert [rule["missed"] for rule in port.get("/rules")] == [1, 1]


def test_a_rule_is_held_against_all_texts_by_a_job(port: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(trial, "TRIAL_SIGNS", 10)
    monkeypatch.setattr(jobs, "PORTION", 2)
    for k in range(4):
        port.post("/texts", {"title": f"34/{k}", "body": f"Amber Quay {k}."})
    port.post("/texts", {"title": "t", "body": "Amber Quay.", "split": "test"})
    sign(port, 0)
    quick = port.post("/rules/try", RULE, expect=200)
    assert (quick["all"], quick["texts"]) == (False, 1)
    begun = port.post("/rules/trials", RULE, expect=202)
    port.post("/rules/trials", RULE, expect=409)
    path = f"/rules/trials/{begun['job']['id']}"
    assert port.get(path)["job"]["state"] == "waiting"
    (job, *_) = port.run_jobs()
    assert (job["state"], job["done"], job["total"]) == ("done", 6, 6)
    told = port.get(path)
    # The sentence about the pilot has two capitals as well; test texts are not looked at.
    assert (told["finds"], told["judged"], told["right"], told["texts"]) == (6, 1, 0, 5)
    assert len(told["staves"]) == 6
    assert told["staves"][0]["differs"]
    assert port.get("/rules") == []


def test_a_trial_on_all_texts_stops_and_says_how_far_it_came(
    port: Api, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(jobs, "PORTION", 1)
    port.post("/texts", {"title": "34/1", "body": "Amber Quay."})
    begun = port.post("/rules/trials", RULE, expect=202)
    monkeypatch.setattr(JobContext, "should_stop", lambda _: True)
    port.run_jobs()
    told = port.get(f"/rules/trials/{begun['job']['id']}")
    assert (told["texts"], told["finds"]) == (1, 2)
    assert told["job"]["message"] == "Stopped after 1 texts."


def test_a_trial_of_what_takes_too_long_fails_with_its_words(
    port: Api, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(many, "STEPS", 0)
    monkeypatch.setattr(many, "STEPS_A_TOKEN", 0)
    begun = port.post("/rules/trials", RULE, expect=202)
    port.run_jobs()
    told = port.get(f"/rules/trials/{begun['job']['id']}")
    assert told["job"]["state"] == "failed"
    assert "steps" in told["job"]["message"]
    assert told["finds"] == 0
    port.post("/rules/trials", RULE | {"pattern": "("}, expect=422)
    port.get("/rules/trials/9999", expect=404)
