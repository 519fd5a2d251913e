"""Money: an amount and an ISO 4217 code."""

from __future__ import annotations

from urdaten.core.values.cutting import Cursor
from urdaten.core.values.numbers import read_amount
from urdaten.core.values.value import Note, Value, unread
from urdaten.core.values.words import ValueWords

# ISO 4217, codes in use; funds and metals left out.
CURRENCIES = frozenset(
    """AED AFN ALL AMD ANG AOA ARS AUD AWG AZN BAM BBD BDT BGN BHD BIF BMD BND BOB BRL BSD BTN BWP BYN BZD CAD CDF CHF CLP
    CNY COP CRC CUP CVE CZK DJF DKK DOP DZD EGP ERN ETB EUR FJD FKP GBP GEL GHS GIP GMD GNF GTQ GYD HKD HNL HTG HUF IDR ILS
    INR IQD IRR ISK JMD JOD JPY KES KGS KHR KMF KPW KRW KWD KYD KZT LAK LBP LKR LRD LSL LYD MAD MDL MGA MKD MMK MNT MOP MRU
    MUR MVR MWK MXN MYR MZN NAD NGN NIO NOK NPR NZD OMR PAB PEN PGK PHP PKR PLN PYG QAR RON RSD RUB RWF SAR SBD SCR SDG SEK
    SGD SHP SLE SOS SRD SSP STN SVC SYP SZL THB TJS TMT TND TOP TRY TTD TWD TZS UAH UGX USD UYU UZS VED VES VND VUV WST XAF
    XCD XOF XPF YER ZAR ZMW ZWL""".split()
)
_SIGNS = {"€": "EUR", "£": "GBP", "$": "USD", "¥": "JPY"}


def read_money(written: str, words: ValueWords, default_currency: str = "") -> Value:
    """A value of kind "money"; a bare number is of `default_currency`, where that is given."""
    cursor = Cursor.on(written, words)
    about = cursor.take_phrase(words.about) is not None
    currency = _currency(cursor)
    amount = read_amount(cursor)
    if amount is None:
        return unread(
            "money", written, "no number" if not any(map(str.isdigit, written)) else "unclear figure"
        )
    currency = currency or _currency(cursor)
    notes: list[Note] = [Note("about")] if about else []
    if currency is None and cursor.done and default_currency:
        currency = default_currency
        notes.append(Note("currency by default", (default_currency,)))
    if currency is None:
        return unread("money", written, "no currency")
    if not cursor.done:
        return unread("money", written, "more than an amount")
    low, high = amount.ends
    return Value(
        kind="money",
        text=f"{amount.said()} {currency}",
        low=low,
        high=high,
        unit=currency,
        about=about or amount.about,
        notes=(*notes, *amount.notes),
    )


def _currency(cursor: Cursor) -> str | None:
    cursor.take("in", "of")
    token = cursor.peek()
    if token is None:
        return None
    if token.fold in _SIGNS:
        cursor.at += 1
        return _SIGNS[token.fold]
    if token.text.upper() in CURRENCIES and token.text.isupper():
        cursor.at += 1
        return token.text
    found: str | None = cursor.value_of(cursor.words.currency_names)
    return found
