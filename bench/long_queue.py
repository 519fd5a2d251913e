"""A queue that is long: its first page, its pages far in, and what the browser keeps while somebody scrolls. A million sentences with --full, a tenth without; nine tenths of them are signed, from the top.

Texts are written into the database as they are stored: that many would take longer to add than to measure.
"""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable

import psycopg
from _running import browsing
from _served import Urdaten, running
from playwright.sync_api import Page

from urdaten.places.desk import acts as desk
from urdaten.places.team import acts as team
from urdaten.platform.accounts import account_by_login
from urdaten.platform.database import transaction

SENTENCES, FULL_SENTENCES = 100_000, 1_000_000
PER_TEXT, SIGNED = 20, 0.9
LOOKS = 7
SCREENS = 150


def measure(full: bool) -> dict[str, float]:
    """Every figure by name; times in milliseconds over HTTP, medians."""
    count = FULL_SENTENCES if full else SENTENCES
    with running() as urdaten:
        slug = _fill(urdaten, count)
        path = f"/api/projects/{slug}/desk/queue"
        with urdaten.client(timeout=120) as client:

            def timed(query: str) -> float:
                began = time.perf_counter()
                client.get(path + query).raise_for_status()
                return (time.perf_counter() - began) * 1000

            first_open = client.get(f"{path}/counts").json()["first_open"]
            asked = {
                "first_page": lambda: timed("/counts") + timed(f"?at={first_open}"),
                "first_page_of_open": lambda: timed("?show=open"),
                "page_in_the_middle": lambda: timed(f"?after={first_open - count // 2}"),
                "page_back": lambda: timed(f"?before={first_open}"),
            }
            figures = {"sentences": float(count)} | {
                f"{name}_ms": _median(look) for name, look in asked.items()
            }
        with browsing() as page:
            figures |= _scrolled(page, urdaten, slug)
    return figures


def _median(look: Callable[[], float]) -> float:
    look()
    return statistics.median(look() for _ in range(LOOKS))


def _fill(urdaten: Urdaten, count: int) -> str:
    """A project with so many sentences; its slug."""
    with transaction(urdaten.database_url) as db:
        project = team.create_project(db, name="Long", language="en")
        team.add_member(db, project.id, account_by_login(db, "ines").id, team.Role.LEAD)
        layer = desk.gold_layer(db, project.id)
    line = "'Ship ' || lpad(k::text, 8, '0') || ' line ' || lpad(n::text, 2, '0') || ' came in with salt.'"
    length = len("Ship 00000001 line 00 came in with salt.") + 1
    urdaten.query(
        f"""
        WITH made AS (
            INSERT INTO text (project_id, title, body, body_digest, "group", split, position, sentences, version)
            SELECT {project.id}, k::text, (SELECT string_agg({line}, E'\\n' ORDER BY n) FROM generate_series(0, {PER_TEXT - 1}) n),
                   md5(k::text), '', 'none', k, {PER_TEXT}, 1
            FROM generate_series(1, {count // PER_TEXT}) k
            RETURNING id
        ), held AS (
            INSERT INTO sentence (text_id, number, start, "end")
            SELECT id, n, n * {length}, (n + 1) * {length} - 1 FROM made, generate_series(0, {PER_TEXT - 1}) n ORDER BY id, n
            RETURNING id
        ), signed AS (
            INSERT INTO annotation (sentence_id, layer_id, state, version, scheme)
            SELECT id, {layer}, 'signed', 1, 0 FROM (SELECT id FROM held ORDER BY id LIMIT {int(count * SIGNED)}) early
            RETURNING id
        )
        SELECT count(*) FROM signed
        """
    )
    with transaction(urdaten.database_url) as db:
        desk.tally_anew(db, project.id)
    with psycopg.connect(urdaten.database_url.replace("+psycopg", ""), autocommit=True) as connection:
        connection.execute("VACUUM ANALYZE")
    return project.slug


def _scrolled(page: Page, urdaten: Urdaten, slug: str) -> dict[str, float]:
    """Up and down from the first open sentence, screen by screen: rows that are missing, and the memory of the page."""
    page.context.add_cookies(
        [{"name": n, "value": v, "url": urdaten.address} for n, v in urdaten.cookies.items()]
    )
    page.goto(f"{urdaten.address}/p/{slug}/desk")
    page.get_by_role("listbox", name="sentences").get_by_role("option", selected=True).wait_for()
    page.wait_for_timeout(2000)  # until windows and menus, which come after the page, are here too
    blank = page.evaluate(
        """async (screens) => {
          const list = document.querySelector('[role=listbox]')
          let blank = 0
          for (const way of [-1, 1]) {
            for (let k = 0; k < screens; k += 1) {
              list.scrollTop += way * list.clientHeight
              await new Promise((frame) => requestAnimationFrame(() => requestAnimationFrame(frame)))
              const frame = list.getBoundingClientRect()
              const x = frame.left + frame.width / 2
              for (const y of [frame.top + 8, frame.top + frame.height / 2, frame.bottom - 40])
                if (!document.elementFromPoint(x, y)?.closest('[role=option]')) blank += 1
            }
          }
          return blank
        }""",
        SCREENS,
    )
    session = page.context.new_cdp_session(page)
    session.send("HeapProfiler.collectGarbage")
    heap = session.send("Runtime.getHeapUsage")
    rows = page.evaluate("document.querySelectorAll('[role=listbox] [role=option]').length")
    return {"blank_rows": float(blank), "page_megabytes": heap["totalSize"] / 1e6, "rows_drawn": float(rows)}
