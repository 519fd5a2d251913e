"""Make data/demo/shapes anew: the office's papers as a web site, PDFs, a table, mails and text files.

    .venv/bin/python scripts/shapes.py

The words are those of the bulletins; what is made differs in shape alone. The PDFs are printed by Chromium,
so their bytes differ from run to run while their words do not.
"""

from __future__ import annotations

import csv
import re
import shutil
from collections.abc import Iterable, Sequence
from email.message import EmailMessage
from email.policy import SMTP
from html import escape
from pathlib import Path

from playwright.sync_api import sync_playwright

from urdaten.core.text import analyse
from urdaten.demo.files import FOLDER, Bulletin, read_demo

SHAPES = FOLDER / "shapes"
FLAGS = "--no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking"
ROWS = 200

# Pages that are no bulletins: title and paragraphs.
PAGES = {
    "berths": (
        "Berths and depths",
        "Sill Wharf has six berths of 7.5 m, numbered from the land. Cutter Row has three, of 5.5 m.",
        "The Grain Jetty is 95 m long, whatever an agent may say. The Coal Steps dry at low water springs.",
        "Spit Buoy A and Spit Buoy B take vessels of up to 10 m draught in settled weather.",
    ),
    "tariff": (
        "Tariff",
        "Light dues are charged once in each call, by length. Lay-by is charged by the hour.",
        "Pilotage is charged by the ship and not by the family. Dues may be paid in coins; please sort them.",
    ),
    "pilots": (
        "Tessmar Pilots",
        "Amber Vane, J. Marsh and Corrie Hask bring ships in at any hour that has water in it.",
        "From 1 November there will be a third man on the cutter Tessmar, Rurik Kessing.",
    ),
    "coldstore": (
        "Tessmar Cold Store",
        "Opened on 1 September. Manager: Wilmer Oake. Counting: Hanne Oake.",
        "Two rooms for fruit and one for peas and herring, together 40,000 boxes.",
    ),
    "contact": (
        "Contact",
        "Harbour office, on the Ropewalk. Duty desk day and night; berth office from 0630.",
        "Complaints in writing. Compliments are read out.",
    ),
    "tides": (
        "Tides",
        "The tide tables are those of the gauge at North Mole 2, which was set right on 30 July at 1040.",
    ),
    "regatta": (
        "Regatta",
        "The cup was won on 2 August by Tessmar Pilots, and hangs in their hut.",
        "The Tessmar Rowing Club thanks Varrow Shipping for four oars.",
    ),
    "history": (
        "History",
        "The harbour had a gauge before it had an office. The bark Candlemas, of Pellin, master Josiah Flint, "
        "was lost on the inner bar in the night before Candlemas with salt for this port.",
        "Her anchor was found by the dredger Mud Lark on 20 September and went home to Pellin by road.",
    ),
    "imprint": (
        "Imprint",
        "Published by the harbour office of the port of Tessmar. Hedda Kessing, harbour master.",
    ),
}
MENU = ("index", "berths", "tariff", "pilots", "coldstore", "notices", "contact")


def page(name: str, title: str, inner: str, charset: str = "utf-8") -> str:
    links = "".join(f'<li><a href="{to}.html">{escape(to)}</a></li>' for to in MENU if to != name)
    return f"""<!doctype html>
<html lang="en">
<head>
<meta charset="{charset}">
<title>{escape(title)} – Port of Tessmar</title>
<style>nav li {{ display: inline; margin-right: 1em }} footer {{ color: gray }}</style>
<script>document.documentElement.className = "with-script";</script>
</head>
<body>
<header><p>Port of Tessmar</p><nav><ul>{links}</ul></nav></header>
<!-- what follows is the page itself -->
<main>
<h1>{escape(title)}</h1>
{inner}
</main>
<aside><p>Also of interest: <a href="tides.html">tides</a>, <a href="regatta.html">regatta</a></p></aside>
<footer><p>&copy; Harbour office of Tessmar &middot; <a href="imprint.html">imprint</a> &middot; Light dues are due.</p></footer>
</body>
</html>
"""


def table_of(lines: Sequence[str]) -> str:
    rows = "".join(
        "<tr>" + "".join(f"<td>{escape(cell.strip())}</td>" for cell in line.split("|")) + "</tr>"
        for line in lines
    )
    return f"<table>{rows}</table>"


def article(bulletin: Bulletin) -> str:
    """A bulletin as HTML: lines with cells become a table, logs a list, the rest paragraphs."""
    lines = bulletin.body.split("\n")
    parts = [
        f"<h2>{escape(bulletin.title)}</h2>",
        f"<p><i>{bulletin.dated}, {escape(bulletin.voice)}</i></p>",
    ]
    cells: list[str] = []
    for line in [*lines, ""]:
        if "|" in line:
            cells.append(line)
            continue
        if cells:
            parts.append(table_of(cells))
            cells = []
        if line.startswith("> "):
            parts.append(f"<blockquote>{escape(line[2:])}</blockquote>")
        elif line and bulletin.voice == "night log":
            parts.append(f"<ul><li>{escape(line)}</li></ul>")
        elif line:
            parts.append(f"<p>{escape(line)}</p>")
    return f'<article id="b{bulletin.title.replace("/", "-")}">{"".join(parts)}</article>'


def make_site(bulletins: Sequence[Bulletin], folder: Path) -> None:
    """Forty pages: weeks, notices, and what an office says of itself. One of them is in Latin-1."""
    folder.mkdir(parents=True)
    weeks: dict[str, list[Bulletin]] = {}
    for bulletin in bulletins:
        weeks.setdefault(bulletin.group, []).append(bulletin)
    notices = [b for b in bulletins if b.voice == "harbour notice"]
    pages: dict[str, tuple[str, str]] = {
        name: (title, "".join(f"<p>{escape(p)}</p>" for p in paragraphs))
        for name, (title, *paragraphs) in PAGES.items()
    }
    for week, found in weeks.items():
        shown = [b for b in found if b.voice in ("day desk", "movement list", "weekly summary")]
        pages[week] = (f"Bulletins of {week.replace('-', ' ')}", "\n".join(map(article, shown)))
    for notice in notices:
        number = re.search(r"\d+", notice.body)
        assert number
        pages[f"notice-{number[0]}"] = (f"Notice {number[0]}", article(notice))
    listed = [name for name in pages if name.startswith("notice-")]
    pages["notices"] = (
        "Notices",
        "<ul>" + "".join(f'<li><a href="{n}.html">{n}</a></li>' for n in listed) + "</ul>",
    )
    news = "".join(f'<li><a href="{week}.html">{week}</a></li>' for week in weeks)
    pages["index"] = (
        "Port of Tessmar",
        f"<p>Bulletins by week:</p><ul>{news}</ul><p>See also the <a href='lost.html'>lost page</a>.</p>",
    )
    pages["sitemap"] = (
        "All pages",
        "<ul>" + "".join(f'<li><a href="{n}.html">{n}</a></li>' for n in pages) + "</ul>",
    )
    for name, (title, inner) in pages.items():
        charset = "iso-8859-1" if name == "tariff" else "utf-8"
        html = page(name, title, inner, charset).replace("–", "-" if name == "tariff" else "–")
        (folder / f"{name}.html").write_text(html, encoding=charset, newline="\n")


def print_pdfs(bulletins: Sequence[Bulletin], folder: Path) -> None:
    """Six PDFs: prose, two columns, a table, a letter, all notices, and a page on its side."""
    folder.mkdir(parents=True)

    def of(*titles: str) -> list[Bulletin]:
        return [b for b in bulletins if b.title in titles]

    def voice(name: str, weeks: Iterable[str]) -> list[Bulletin]:
        return [b for b in bulletins if b.voice == name and b.group in weeks]

    jobs = {
        "weekly-summaries": ("", voice("weekly summary", ("week-28", "week-29", "week-30")), {}),
        "log-in-two-columns": (
            "main { columns: 2; column-gap: 2em; text-align: justify; hyphens: auto }",
            voice("night log", ("week-33", "week-34")),
            {},
        ),
        "movements": (
            "td { border: 1px solid gray; padding: 2px 6px }",
            voice("movement list", ("week-35", "week-36")),
            {},
        ),
        "letter": ("main { margin-top: 6cm; font-size: 13pt }", of("38/20"), {}),
        "notices": (
            "article { break-after: page }",
            [b for b in bulletins if b.voice == "harbour notice"],
            {
                "display_header_footer": True,
                "header_template": "<span style='font-size:8px;margin-left:2cm'>Port of Tessmar, notices</span>",
                "footer_template": "<span style='font-size:8px;margin-left:2cm'>page <span class='pageNumber'></span></span>",
            },
        ),
        "telex-on-its-side": (
            "p { font-family: monospace }",
            voice("telex", ("week-37", "week-38")),
            {"landscape": True},
        ),
    }
    with sync_playwright() as driver:
        browser = driver.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS.split())
        for name, (style, chosen, options) in jobs.items():
            sheet = browser.new_page()
            inner = "".join(map(article, chosen))
            sheet.set_content(f"<html lang=en><style>{style}</style><main>{inner}</main></html>")
            margin = {"top": "2cm", "bottom": "2cm", "left": "2cm", "right": "2cm"}
            sheet.pdf(path=folder / f"{name}.pdf", format="A4", margin=margin, **options)
        browser.close()


def make_table(bulletins: Sequence[Bulletin], path: Path) -> None:
    """Two hundred rows as somebody kept them in a spreadsheet: one column of text among others."""
    rows = []
    for bulletin in bulletins:
        for start, end in analyse(bulletin.body).sentence_bounds():
            words = bulletin.body[start:end]
            if bulletin.voice in ("night log", "day desk", "hurried note") and len(words) > 25:
                rows.append((bulletin.dated.strftime("%d.%m.%Y"), bulletin.voice, words))
    step = len(rows) // ROWS
    with path.open("w", newline="", encoding="utf-8") as file:
        writer = csv.writer(file)
        writer.writerow(("No.", "Date", "Desk", "Remark", "seen"))
        for i, (dated, desk, words) in enumerate(rows[: step * ROWS : step], start=1):
            # Some cells hold a second line, as cells do.
            remark = words + "\n(see file)" if i % 17 == 0 else words
            writer.writerow((i, dated, desk, remark, "" if i % 3 else "x"))


def make_mails(bulletins: Sequence[Bulletin], folder: Path) -> None:
    """Twelve mails: plain, quoted-printable, base64, and with an HTML part beside the plain one."""
    folder.mkdir(parents=True)
    mails = [b for b in bulletins if b.voice == "mail"][:12]
    for i, bulletin in enumerate(mails):
        lines = bulletin.body.split("\n")
        heads = dict(line.split(": ", 1) for line in lines if line.startswith(("From: ", "To: ")))
        words = "\n".join(line for line in lines if not line.startswith(("From: ", "To: "))) + "\n"
        mail = EmailMessage(policy=SMTP)
        mail["From"] = f'"{heads.get("From", "duty desk")}" <desk{i}@tessmar.invalid>'
        mail["To"] = f'"{heads.get("To", "harbour office")}" <office@tessmar.invalid>'
        mail["Date"] = f"{bulletin.dated:%a, %d %b %Y} 0{8 + i % 2}:1{i % 10}:00 +0200"
        mail["Subject"] = next((line[2:] for line in lines if line.startswith("> ")), bulletin.title)
        mail["Message-ID"] = f"<{bulletin.title.replace('/', '-')}@tessmar.invalid>"
        mail.set_content(words, cte=("8bit", "quoted-printable", "base64")[i % 3])
        if i % 4 == 3:
            mail.add_alternative(f"<html><body>{article(bulletin)}</body></html>", subtype="html")
            mail.set_boundary(f"part-{i}")
        (folder / f"{bulletin.title.replace('/', '-')}.eml").write_bytes(mail.as_bytes())


def make_texts(bulletins: Sequence[Bulletin], folder: Path) -> None:
    """Text files of one week in three encodings; the UTF-16 one has a byte order mark and CRLF."""
    folder.mkdir(parents=True)
    by_title = {b.title: b.body for b in bulletins}
    (folder / "utf-8.txt").write_bytes(("“Café” is what the cook calls it.\n" + by_title["29/20"]).encode())
    (folder / "latin-1.txt").write_bytes(
        ("Café au quai, says the cook.\n" + by_title["30/20"]).encode("latin-1", "replace")
    )
    (folder / "utf-16.txt").write_bytes(by_title["31/18"].replace("\n", "\r\n").encode("utf-16"))


def make_damaged(folder: Path) -> None:
    """One damaged file of each kind: cut off, or with bytes that do not belong there."""
    folder.mkdir(parents=True)
    (folder / "cut-off.html").write_bytes(
        (SHAPES / "site" / "berths.html").read_bytes()[:700] + b'<p class="\xff\xfe'
    )
    (folder / "cut-off.pdf").write_bytes((SHAPES / "pdf" / "letter.pdf").read_bytes()[:4000])
    (folder / "open-quote.csv").write_text(
        'No.,Date,Desk,Remark\n1,06.07.2026,night log,"never closed\n2,07.07.2026,day desk\n'
    )
    (folder / "broken-base64.eml").write_bytes(
        b"From: <desk@tessmar.invalid>\r\nSubject: broken\r\nMIME-Version: 1.0\r\nContent-Type: text/plain; charset=utf-8\r\n"
        b"Content-Transfer-Encoding: base64\r\n\r\nUGVsbGluIGlzIGlu!!!\xff\r\n"
    )
    (folder / "not-utf-8.txt").write_bytes(b"Pellin is in from Varnby \xc3\x28 and nobody knows why.\n")
    (folder / "odd-length-utf-16.txt").write_bytes("Pellin is in.".encode("utf-16")[:-1])


def main() -> None:
    bulletins = read_demo().bulletins
    if SHAPES.exists():
        shutil.rmtree(SHAPES)
    make_site(bulletins, SHAPES / "site")
    print_pdfs(bulletins, SHAPES / "pdf")
    make_table(bulletins, SHAPES / "remarks.csv")
    make_mails(bulletins, SHAPES / "mail")
    make_texts(bulletins, SHAPES / "text")
    make_damaged(SHAPES / "damaged")


if __name__ == "__main__":
    main()
