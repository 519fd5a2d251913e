"""The one way in which words are compared: what differs in nothing but its writing is one word."""

from __future__ import annotations

import unicodedata

import regex

# Signs that show nothing: soft hyphens, joiners, marks of direction and order.
_UNSEEN = regex.compile(r"\p{Default_Ignorable_Code_Point}+")
# Beyond it there is no space: looking would take longer than all else when a process begins.
_LAST_SPACE = 0x3000
_ALIKE = {
    **dict.fromkeys(map(ord, "‘’‛ʼ＇"), "'"),
    **dict.fromkeys(map(ord, "‐‑‒–—―−﹘﹣－"), "-"),
    **{code: " " for code in range(0x80, _LAST_SPACE + 1) if unicodedata.category(chr(code)) == "Zs"},
}


_ACCENTS = regex.compile(r"\p{Mn}+")


def fold(form: str) -> str:
    """The form under which words are compared.

    Case, composed or decomposed accents, typographic apostrophes, dashes and spaces, and signs that show nothing do not
    count: canonical caseless matching as the Unicode Standard has it (section 3.13, D145), composed, and the above. What
    consists of nothing but signs that show nothing stays as it is. Folding twice is folding once.
    """
    if form.isascii():
        return form.lower()
    seen = _UNSEEN.sub("", form) or form
    folded = unicodedata.normalize("NFD", unicodedata.normalize("NFD", seen).casefold())
    return unicodedata.normalize("NFC", folded.translate(_ALIKE))


def fold_but_case(form: str) -> str:
    """As `fold`, but small letters and capitals differ."""
    if form.isascii():
        return form
    seen = _UNSEEN.sub("", form) or form
    return unicodedata.normalize("NFC", unicodedata.normalize("NFD", seen).translate(_ALIKE))


def without_accents(form: str) -> str:
    """The form without its combining marks, composed or not: é is e. A letter of its own stays, as ø and ł; so does a form
    that is nothing but marks."""
    if form.isascii():
        return form
    bare = _ACCENTS.sub("", unicodedata.normalize("NFD", form))
    return unicodedata.normalize("NFC", bare) or form
