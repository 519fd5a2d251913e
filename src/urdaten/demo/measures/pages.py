"""Main text of web pages against what was marked by hand in pages written for it."""

from __future__ import annotations

import re
from collections import Counter
from html import unescape
from pathlib import Path

from urdaten.demo.files import FOLDER
from urdaten.readers import Document, How, read_source

PAGES = FOLDER / "shapes" / "pages"
# Main text stands between these comments, which are taken out before a page is read.
_BEGINS, _ENDS = b"<!--[-->", b"<!--]-->"
_MAIN = re.compile(re.escape(_BEGINS) + b"(.*?)" + re.escape(_ENDS), re.DOTALL)
_WORD = re.compile(r"\w+")


def token_f1(wanted: str, found: str) -> float:
    """F1 of two bags of words; 1 where both are empty."""
    one, other = Counter(_WORD.findall(wanted)), Counter(_WORD.findall(found))
    both = sum((one & other).values())
    whole = sum(one.values()) + sum(other.values())
    return 2 * both / whole if whole else 1.0


def marked(page: bytes) -> tuple[bytes, str]:
    """A page without its marks, and the words between them."""
    # One page is in Latin-1 and does not say so.
    parts = [
        part.decode("utf-8") if _is_utf8(page) else part.decode("iso-8859-1") for part in _MAIN.findall(page)
    ]
    words = " ".join(unescape(re.sub(r"<[^>]*>", " ", part)) for part in parts)
    return page.replace(_BEGINS, b"").replace(_ENDS, b""), words


def _is_utf8(data: bytes) -> bool:
    try:
        data.decode("utf-8")
    except UnicodeDecodeError:
        return False
    return True


def main_text_scores(folder: Path = PAGES) -> dict[str, float]:
    """Token F1 of each page's main text, by the page's name."""
    scores = {}
    for path in sorted(folder.glob("*.html")):
        page, wanted = marked(path.read_bytes())
        found = "\n".join(
            item.body for item in read_source(page, path.name, How()) if isinstance(item, Document)
        )
        scores[path.stem] = token_f1(wanted, found)
    return scores
