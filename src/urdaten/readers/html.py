"""Web pages: their main text without menus, footers, banners and what else stands around it."""

from __future__ import annotations

import logging
import re
from collections import Counter
from collections.abc import Iterable, Iterator
from copy import deepcopy
from datetime import date
from typing import Any

import lxml.html
import trafilatura
from lxml import etree

from urdaten.errors import BadFile
from urdaten.readers.blocks import hidden, lines_of
from urdaten.readers.dates import day_of
from urdaten.readers.document import Document, Found, How, Item, text_meta
from urdaten.readers.encoding import decode

# It tells of every page that it finds hard; whoever reads the outcome sees it.
logging.getLogger("trafilatura").setLevel(logging.CRITICAL)
logging.getLogger("htmldate").setLevel(logging.CRITICAL)

_DECLARED = re.compile(rb"<meta[^>]{1,200}charset\s*=\s*[\"']?\s*([\w.:-]{1,40})", re.IGNORECASE)
_XML = re.compile(rb"^\s*<\?xml[^>]{1,200}encoding\s*=\s*[\"']([\w.:-]{1,40})")
_AROUND = frozenset({"nav", "aside", "footer", "form", "dialog", "menu"})
_AROUND_ROLES = frozenset(
    {
        "navigation",
        "complementary",
        "contentinfo",
        "banner",
        "search",
        "dialog",
        "alertdialog",
        "menu",
        "menubar",
    }
)
_BEFORE = r"(?:^|[\s_-])(?:"
_AFTER = r")(?:$|[\s_-])"
_AROUND_NAMES = re.compile(
    f"{_BEFORE}breadcrumbs?|pagination|pager|pages|share|sharing|social|related|recommended|newsletter|subscribe|side|sidebar|navbar|"
    f"nav|navigation|menu|tabs|toolbar|topbar|bottom|skip|foot|footer|masthead|legal|copyright|categories|advert|ads?|promo|comments?|tags?{_AFTER}",
    re.IGNORECASE,
)
# What lies over a page is none of it, however much it says.
_OVER_NAMES = re.compile(f"{_BEFORE}cookies?|consent|gdpr|popup|modal|overlay{_AFTER}", re.IGNORECASE)
_OVER_ROLES = frozenset({"dialog", "alertdialog"})
# A block with more than this share of its words in links leads elsewhere.
_MOST_LINKED = 0.75
_MAY_LEAD = frozenset("p div ul ol li td tr table span section center h3 h4 h5".split())
# Something that is named like what stands around a page, but holds more than this share of it, is the page.
_MOST_AROUND = 0.4
# A main part with fewer characters than this is none.
_FEWEST = 20
_SITE = re.compile(r"\s+[|–—·»-]\s+")
_WORD = re.compile(r"\w+")
_DATES = (
    "//meta[@property='article:published_time']/@content",
    "//meta[@name='date' or @name='DC.date' or @name='dcterms.date' or @name='pubdate' or @itemprop='datePublished']/@content",
    "//time[@pubdate]/@datetime",
    "//*[@itemprop='datePublished']/@datetime",
)


def read_html(data: bytes, source: str, how: How) -> Iterator[Item]:
    """One document. Raises BadFile for a page that shows no words."""
    decoded = decode(data, how.encoding, declared_in(data))
    yield Found(source=source, kind="html", encoding=decoded.encoding, guessed=decoded.guessed)
    yield page_of(decoded.text, source, whole=how.whole_page)


def declared_in(data: bytes) -> str:
    """The encoding that a page names."""
    head = data[:4096]
    found = _XML.search(head) or _DECLARED.search(head)
    return found[1].decode("ascii", errors="replace") if found else ""


def page_of(html: str, source: str, *, whole: bool = False) -> Document:
    """A page's main text, or all that it shows. Raises BadFile where that is nothing."""
    tree = tree_of(html)
    lines = lines_of(tree) if whole else main_lines(tree, html)
    if not lines:
        raise BadFile("The page shows no words.")
    said = {"author": _first(tree, "//meta[@name='author']/@content"), "language": tree.get("lang") or ""}
    return Document(
        body="\n".join(lines),
        title=_title(tree),
        dated=_day(tree),
        meta=text_meta(said),
        source=source,
    )


def tree_of(html: str) -> Any:
    """The page as a tree, whatever is amiss with it. Raises BadFile where there is nothing to see."""
    # A declaration of an encoding does not go with text that is decoded.
    html = re.sub(r"^\s*<\?xml[^>]*\?>", "", html)
    try:
        tree = lxml.html.document_fromstring(html)
    except (etree.ParserError, etree.XMLSyntaxError, ValueError, AssertionError) as fault:
        raise BadFile(f"The page cannot be read: {fault}.") from None
    return tree


def main_lines(tree: Any, html: str) -> list[str]:
    """The lines of the main text: of what the page itself says is its main part, or else of what reads like it.

    What stands around a text is left out by what it is and how it is named. Where the page does not say what its main
    part is, lines before and after all that the extractor takes for text go as well; within, all stay, so that
    captions, terms and cells are not lost.
    """
    own = _own_main(tree)
    if own is not None:
        lines = lines_of(_without_around(own))
        if _size(lines) >= _FEWEST:
            return lines
    body = tree.find("body")
    body = tree if body is None else body
    bare = lines_of(_without_links(_without_around(body)))
    told = trafilatura.extract(
        html,
        include_tables=True,
        include_comments=False,
        include_formatting=False,
        favor_recall=True,
        output_format="txt",
    )
    there = Counter(_WORD.findall(told or ""))
    kept = [number for number, line in enumerate(bare) if _has(there, line)]
    if not kept or _size(bare[number] for number in kept) < 0.3 * _size(bare):
        return bare or lines_of(body)
    first, last = kept[0], kept[-1]
    headings = {" ".join(node.text_content().split()) for node in tree.iter("h1", "h2", "h3")}
    while first and bare[first - 1] in headings:
        first -= 1
    return bare[first : last + 1]


def _own_main(tree: Any) -> Any | None:
    for path in ("//main", "//*[@role='main']", "//article"):
        found = [node for node in tree.xpath(path) if not hidden(node)]
        if len(found) == 1:
            return found[0]
    return None


def _without_around(element: Any) -> Any:
    """A copy without the parts that stand around a text by what they are or how they are named."""
    element = deepcopy(element)
    element.tail = None
    whole = max(1, len(element.text_content()))
    for node in list(element.iterdescendants()):
        if not isinstance(node.tag, str) or node.getparent() is None:
            continue
        named = " ".join((node.get("class") or "", node.get("id") or ""))
        over = (node.get("role") or "") in _OVER_ROLES or bool(_OVER_NAMES.search(named))
        if over or (_is_around(node, named) and len(node.text_content()) <= _MOST_AROUND * whole):
            _drop(node)
    return element


def _is_around(node: Any, named: str) -> bool:
    if node.tag in _AROUND or (node.get("role") or "") in _AROUND_ROLES or _AROUND_NAMES.search(named):
        return True
    # The head of a page leads elsewhere; that of an article names it.
    return node.tag == "header" and _linked(node) > 0.3 and not node.xpath("ancestor::article|ancestor::main")


def _without_links(element: Any) -> Any:
    """Without the blocks that hold links and hardly a word besides; the innermost first."""
    for node in reversed(list(element.iterdescendants())):
        if node.tag in _MAY_LEAD and node.getparent() is not None and _linked(node) >= _MOST_LINKED:
            _drop(node)
    return element


def _drop(node: Any) -> None:
    parent, before = node.getparent(), node.getprevious()
    if node.tail:
        if before is not None:
            before.tail = (before.tail or "") + node.tail
        else:
            parent.text = (parent.text or "") + node.tail
    parent.remove(node)


def _linked(node: Any) -> float:
    """The share of its words that are links; 0 where it has none."""
    words = len(_WORD.findall(node.text_content()))
    linked = sum(len(_WORD.findall(link.text_content())) for link in node.iter("a"))
    return linked / words if words else 0.0


def _has(there: Counter[str], line: str) -> bool:
    """Are nearly all words of a line among these? They are used up then."""
    words = Counter(_WORD.findall(line))
    if not words or sum((words & there).values()) < 0.8 * sum(words.values()):
        return False
    there.subtract(words)
    return True


def _size(lines: Iterable[str]) -> int:
    return sum(map(len, lines))


def _first(tree: Any, path: str) -> str:
    found = tree.xpath(path)
    return str(found[0]).strip() if found else ""


def _title(tree: Any) -> str:
    headings = [" ".join(node.text_content().split()) for node in tree.xpath("//h1") if not hidden(node)]
    title = " ".join(_first(tree, "//title/text()").split())
    if len(headings) == 1 and headings[0]:
        return headings[0]
    # What follows the last dash is the name of the site.
    parts = _SITE.split(title)
    return parts[0] if len(parts) > 1 and len(parts[0]) >= 3 else title


def _day(tree: Any) -> date | None:
    for path in _DATES:
        if day := day_of(_first(tree, path)[:60]):
            return day
    return None
