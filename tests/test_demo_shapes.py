"""The office's papers in other shapes: each kind can be read, and its damaged one cannot."""

from __future__ import annotations

import csv
import re
from email import message_from_bytes
from email.policy import default
from html.parser import HTMLParser

import httpx
import pytest

from urdaten.demo.files import FOLDER, Demo
from urdaten.demo.site import build_site

SHAPES = FOLDER / "shapes"


class Page(HTMLParser):
    """The words of a page by the innermost of main, header and footer."""

    def __init__(self, html: str) -> None:
        super().__init__()
        self.words: dict[str, str] = {"main": "", "header": "", "footer": ""}
        self.links: list[str] = []
        self._within = ""
        self.feed(html)
        self.close()

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        if tag in self.words:
            self._within = tag
        self.links += [value for name, value in attrs if name == "href" and value]

    def handle_endtag(self, tag: str) -> None:
        if tag == self._within:
            self._within = ""

    def handle_data(self, data: str) -> None:
        if self._within:
            self.words[self._within] += data


@pytest.fixture
async def site() -> httpx.AsyncClient:
    return httpx.AsyncClient(transport=httpx.ASGITransport(build_site()), base_url="http://site.test")


@pytest.mark.anyio
async def test_the_site_is_forty_linked_pages_with_menu_and_footer(site: httpx.AsyncClient) -> None:
    seen: dict[str, Page] = {}
    lost = []
    to_do = ["index.html", "sitemap.html"]
    while to_do:
        name = to_do.pop()
        if name in seen or name in lost:
            continue
        answer = await site.get(f"/{name}")
        if answer.status_code == 404:
            lost.append(name)
            continue
        assert answer.headers["content-type"].startswith("text/html")
        seen[name] = Page(answer.text)
        to_do += seen[name].links
    assert len(seen) == 40
    assert lost == ["lost.html"]
    assert all(page.words[part].strip() for page in seen.values() for part in ("main", "header", "footer"))


@pytest.mark.anyio
async def test_the_site_moves_closes_and_speaks_latin_1(site: httpx.AsyncClient) -> None:
    assert (await site.get("/")).text == (await site.get("/index.html")).text
    moved = await site.get("/depths.html")
    assert (moved.status_code, moved.headers["location"]) == (301, "/berths.html")
    assert "Disallow: /imprint.html" in (await site.get("/robots.txt")).text
    assert "iso-8859-1" in (await site.get("/tariff.html")).headers["content-type"]
    for outside in ("/../project.toml", "/%2e%2e/project.toml", "/..%2fproject.toml"):
        assert (await site.get(outside)).status_code == 404


def test_the_table_has_two_hundred_remarks(demo: Demo) -> None:
    with (SHAPES / "remarks.csv").open(newline="", encoding="utf-8") as file:
        rows = list(csv.DictReader(file, strict=True))
    assert [row["No."] for row in rows] == [str(i) for i in range(1, 201)]
    bodies = "\n".join(b.body for b in demo.bulletins)
    assert all(row["Remark"].removesuffix("\n(see file)") in bodies for row in rows)
    assert any("\n" in row["Remark"] for row in rows)


def test_mails_come_in_three_transfer_encodings_and_some_with_html(demo: Demo) -> None:
    bodies = {b.title.replace("/", "-"): b.body for b in demo.bulletins}
    encodings = set()
    alternatives = 0
    for path in sorted((SHAPES / "mail").glob("*.eml")):
        mail = message_from_bytes(path.read_bytes(), policy=default)
        plain = mail.get_body(("plain",))
        assert plain
        assert not plain.defects
        encodings.add(plain["Content-Transfer-Encoding"])
        alternatives += mail.is_multipart()
        assert plain.get_content().replace("\r\n", "\n").strip() in bodies[path.stem]
    assert encodings == {"8bit", "quoted-printable", "base64"}
    assert alternatives == 3


@pytest.mark.parametrize(
    ("name", "encoding"), [("utf-8", "utf-8"), ("latin-1", "latin-1"), ("utf-16", "utf-16")]
)
def test_texts_come_in_three_encodings(name: str, encoding: str) -> None:
    raw = (SHAPES / "text" / f"{name}.txt").read_bytes()
    assert len(raw.decode(encoding)) > 300
    if name != "utf-8":
        with pytest.raises(UnicodeDecodeError):
            raw.decode("utf-8")


def test_there_are_six_whole_pdfs_and_a_damaged_one() -> None:
    paths = sorted((SHAPES / "pdf").glob("*.pdf"))
    assert len(paths) == 6
    for path in paths:
        raw = path.read_bytes()
        assert raw.startswith(b"%PDF-")
        assert raw.rstrip().endswith(b"%%EOF")
        assert re.search(rb"/Type\s*/Page\b", raw)
    assert not (SHAPES / "damaged" / "cut-off.pdf").read_bytes().rstrip().endswith(b"%%EOF")


def test_the_damaged_ones_are_damaged() -> None:
    damaged = SHAPES / "damaged"
    assert {p.suffix for p in damaged.iterdir()} == {".html", ".pdf", ".csv", ".eml", ".txt"}
    for name in ("not-utf-8.txt", "cut-off.html"):
        with pytest.raises(UnicodeDecodeError):
            (damaged / name).read_bytes().decode("utf-8")
    with pytest.raises(UnicodeDecodeError):
        (damaged / "odd-length-utf-16.txt").read_bytes().decode("utf-16")
    with pytest.raises(csv.Error), (damaged / "open-quote.csv").open(newline="") as file:
        list(csv.reader(file, strict=True))
    mail = message_from_bytes((damaged / "broken-base64.eml").read_bytes(), policy=default)
    mail.get_content()
    assert mail.defects
