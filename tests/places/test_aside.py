"""What mails quote and their signatures: kept with the text, annotated where somebody asks for it."""

from __future__ import annotations

from typing import Any

import pytest

from acting import act
from conftest import Api
from importing import kept
from urdaten.places.texts import acts as texts
from urdaten.platform.database import transaction

MAIL = (
    b"From: vane@harbour.invalid\r\nSubject: berth\r\nContent-Type: text/plain; charset=utf-8\r\n\r\n"
    b"Ketta takes berth six.\r\n> Where does Mira lie? And Ketta?\r\nMira waits for the tide.\r\n\r\n--\r\nAmber Vane, pilot\r\n"
)


def words(api: Api, text: dict[str, Any]) -> list[str]:
    page = api.get(f"/texts/{text['id']}/sentences")["sentences"]
    assert [one["number"] for one in page] == list(range(len(page)))
    return [text["body"][one["start"] : one["end"]] for one in page]


def only(api: Api) -> dict[str, Any]:
    (head,) = api.get("/texts")["texts"]
    return dict(api.get(f"/texts/{head['id']}"))


@pytest.fixture
def mail(api: Api) -> Api:
    api.post("/types", {"code": "VES", "name": "vessel", "key": "v", "hue": 1})
    kept(api, {"a.eml": MAIL})
    return api


def test_what_is_quoted_has_no_sentences_until_somebody_asks(mail: Api) -> None:
    text = only(mail)
    assert words(mail, text) == ["Ketta takes berth six.", "Mira waits for the tide."]
    assert (text["sentences"], text["aside_annotated"]) == (2, False)
    queue = mail.get("/desk/queue")["items"]
    sentence = mail.get(f"/desk/sentences/{queue[1]['id']}")
    aside = [text["body"][one["start"] : one["end"]] for one in sentence["aside"]]
    assert aside == ["> Where does Mira lie? And Ketta?", "--\nAmber Vane, pilot"]
    # What is marked stays marked when more sentences come.
    mail.put(f"/desk/sentences/{queue[1]['id']}", act("mark", 0, [{"start": 57, "end": 61, "type": "VES"}]))
    more = mail.put(f"/texts/{text['id']}/aside", {"annotated": True})
    assert (more["sentences"], more["aside_annotated"]) == (6, True)
    assert words(mail, text) == [
        "Ketta takes berth six.",
        "> Where does Mira lie?",
        "And Ketta?",
        "Mira waits for the tide.",
        "--",
        "Amber Vane, pilot",
    ]
    states = [(one["id"], one["state"]) for one in mail.get("/desk/queue")["items"]]
    assert [state for _, state in states] == ["untouched"] * 3 + ["draft", "untouched", "untouched"]
    assert states[3][0] == queue[1]["id"]
    # Asking twice changes nothing.
    assert mail.put(f"/texts/{text['id']}/aside", {"annotated": True})["sentences"] == 6
    back = mail.put(f"/texts/{text['id']}/aside", {"annotated": False})
    assert (back["sentences"], back["aside_annotated"]) == (2, False)
    assert [one["id"] for one in mail.get("/desk/queue")["items"]] == [one["id"] for one in queue]


def test_sentences_that_are_annotated_are_not_taken_away(mail: Api) -> None:
    text = only(mail)
    mail.put(f"/texts/{text['id']}/aside", {"annotated": True})
    quoted = mail.get("/desk/queue")["items"][1]["id"]
    mail.put(f"/desk/sentences/{quoted}", act("sign as empty", 0))
    told = mail.put(f"/texts/{text['id']}/aside", {"annotated": False}, expect=409)["detail"]
    assert told.startswith("Somebody has worked in 1 of the sentences")
    # Also when it was taken back: scorecards may speak of it.
    mail.post("/desk/undo", expect=200)
    assert mail.get(f"/desk/sentences/{quoted}")["annotation"]["state"] == "untouched"
    mail.put(f"/texts/{text['id']}/aside", {"annotated": False}, expect=409)
    assert mail.get(f"/texts/{text['id']}")["sentences"] == 6


def test_a_text_in_which_all_stands_aside_is_annotated(api: Api) -> None:
    kept(
        api, {"a.eml": MAIL.replace(b"Ketta takes", b"> Ketta takes").replace(b"Mira waits", b"> Mira waits")}
    )
    text = only(api)
    assert (text["aside_annotated"], text["sentences"] > 2) == (True, True)
    told = api.put(f"/texts/{text['id']}/aside", {"annotated": False}, expect=409)["detail"]
    assert "nothing else in this text" in told


def test_a_plan_can_ask_for_it(api: Api) -> None:
    kept(api, {"a.eml": MAIL}, annotate_quoted=True)
    assert only(api)["sentences"] == 6


def test_texts_split_anew_leave_it_out_as_before(mail: Api) -> None:
    kept(mail, {"b.eml": MAIL.replace(b"six", b"ber. seven")}, annotate_quoted=True)
    mail.put("/texts/abbreviations", {"words": ["ber."]})
    counts = [head["sentences"] for head in mail.get("/texts")["texts"]]
    assert counts == [2, 6]


def test_nothing_is_found_over_what_stands_between_sentences(mail: Api) -> None:
    with transaction(mail.settings.database_url) as db:
        (text,) = texts.all_texts(db, 1) or texts.all_texts(db, only(mail)["id"])
        batch = texts.batch_of(db, [text], "en")
    bounds = batch.sentence_bounds()[0]
    assert [text.body[a:b] for a, b in bounds] == [
        "Ketta takes berth six.",
        "> Where does Mira lie? And Ketta?",
        "Mira waits for the tide.",
        "--\nAmber Vane, pilot",
    ]


def test_reading_a_text_shows_what_stands_between(mail: Api) -> None:
    text = only(mail)
    rows = mail.get("/desk/reading", text=text["id"])["sentences"]
    assert [(row["before"], row["after"]) for row in rows] == [
        ("", ""),
        ("> Where does Mira lie? And Ketta?", "--\nAmber Vane, pilot"),
    ]
    # From the middle on, and page by page.
    (row,) = mail.get("/desk/reading", text=text["id"], number=1)["sentences"]
    assert (row["before"], row["after"]) == ("> Where does Mira lie? And Ketta?", "--\nAmber Vane, pilot")
    (row,) = mail.get("/desk/reading", text=text["id"], limit=1)["sentences"]
    assert (row["before"], row["after"]) == ("", "")


@pytest.mark.parametrize("format_", ["jsonl", "bio", "conllu", "annotations"])
def test_a_corpus_with_words_between_sentences_keeps_its_body(mail: Api, format_: str) -> None:
    queue = mail.get("/desk/queue")["items"]
    mail.put(f"/desk/sentences/{queue[0]['id']}", act("sign", 0, [{"start": 0, "end": 5, "type": "VES"}]))
    file = mail.request(
        "GET", "/api/projects/tessmar/corpus", params={"format": format_, "unsigned": "true"}
    ).content
    text = only(mail)
    mail.request("DELETE", f"/api/projects/tessmar/texts/{text['id']}")
    kept(mail, {f"corpus.{format_}": file}, spans="signed")
    again = only(mail)
    assert again["body"] == text["body"]
    assert (again["sentences"], again["spans"]) == (2, 1)
