"""Numbers as people type them: with a comma or a point, in the digits of any script; and the one way they are shown."""

from __future__ import annotations

import math
import re
import unicodedata

DECIMAL_SIGNS = ".,٫،．，"
"""All mean the decimal, whatever the system's language says: nobody types thousands of milliseconds with commas."""

MINUS_SIGNS, PLUS_SIGNS = "-−–‐－﹣", "+＋"
APOSTROPHES = "'’"
GROUP_SIGNS = f"{APOSTROPHES}٬"
"""These and any white space may part groups of three digits."""

_GROUPED = re.compile(r"\d{1,3}( \d{3})+")
_FRACTION = re.compile(r"([+-]?\d+) ?[/⁄] ?(\d+)")
_NUMBER = re.compile(r"([+-]?)([\d ]*)(?:\.(\d*))?")


def plus_minus_ms(time_s: float, sd_s: float) -> str:
    """Return a time and how well it is known in whole milliseconds, as "351 ± 1 ms"; time_s, sd_s : [s].

    What is shown to the millisecond is known to one at best: none says "± 0".
    """
    return f"{time_s * 1e3:.0f} ± {max(sd_s * 1e3, 1):.0f} ms"


class NumberError(ValueError):
    """A text that stands for no number; the sentence says why, and how to write it."""


def read_number(text: str, unit: str = "") -> float:
    """Return the number that a text means.

    unit : what may stand behind it, as the field shows it. A fraction such as 1/200 is a number too.
    Raises NumberError.
    """
    plain = _without_unit(_plain(text), _plain(unit), text)
    if not plain:
        raise NumberError("There is no number. Write one, for example 356.5.")
    fraction = _FRACTION.fullmatch(plain)
    if fraction:
        return _divided(int(fraction[1]), int(fraction[2]), text)
    if plain.count(".") > 1:
        raise NumberError(
            f"“{text.strip()}” has more than one comma or point, and both mean the decimal here. Write thousands "
            "without a sign."
        )
    found = _NUMBER.fullmatch(plain)
    if not found or not (found[2].strip() or found[3]):
        raise NumberError(f"“{text.strip()}” is no number. Write it like 356.5 or 356,5.")
    whole = found[2].strip()
    if " " in whole and not _GROUPED.fullmatch(whole):
        raise NumberError(f"“{text.strip()}” are several numbers. Write one, for example 356.5.")
    number = float(f"{found[1]}{whole.replace(' ', '') or '0'}.{found[3] or '0'}")
    if not math.isfinite(number):
        raise NumberError(f"“{text.strip()[:12]}…” is larger than any number that Ondine knows. Write a smaller one.")
    return number


def read_numbers(text: str, unit: str = "") -> list[float]:
    """Return all numbers of a text, with blanks, semicolons or commas and blanks between them. Raises NumberError."""
    parts = re.split(r"[;\s]+", text.strip().replace(unit, " ") if unit else text.strip())
    return [read_number(part.rstrip(DECIMAL_SIGNS)) for part in parts if part.rstrip(DECIMAL_SIGNS)]


def number_words(value: float, decimals: int) -> str:
    """Write a number as it is shown everywhere: Latin digits, a point, no sign between thousands."""
    words = f"{value:.{decimals}f}"
    # What is rounded to nothing has no sign.
    return words.removeprefix("-") if not words.strip("-0.") else words


def counted(count: int, thing: str) -> str:
    """Say how many of a thing there are: "1 picture", "2 pictures"."""
    return f"{count} {thing}" if count == 1 else f"{count} {thing}s"


def _plain(text: str) -> str:
    """Write a text in ASCII digits, with a point for each decimal sign and one blank for what parts groups."""
    made = []
    for sign in text:
        if unicodedata.category(sign) == "Cf":
            # Marks of direction, which a copy from right-to-left text brings along.
            continue
        if sign.isdecimal():
            made.append(str(unicodedata.decimal(sign)))
        elif sign in DECIMAL_SIGNS:
            made.append(".")
        elif sign in MINUS_SIGNS:
            made.append("-")
        elif sign in PLUS_SIGNS:
            made.append("+")
        else:
            made.append(" " if sign in GROUP_SIGNS else sign)
    return " ".join("".join(made).split())


def _without_unit(plain: str, unit: str, text: str) -> str:
    number = plain.rstrip("".join(sign for sign in set(plain) if not (sign.isdecimal() or sign in ".")))
    behind = plain[len(number) :].strip()
    if not behind or behind.casefold() == unit.casefold():
        return number.strip()
    if not number.strip("+- ."):
        raise NumberError(f"“{text.strip()}” is no number. Write it like 356.5 or 356,5.")
    wanted = f"in {unit}" if unit else "a number without a unit"
    raise NumberError(f"“{text.strip()}” has “{behind}” behind it, but this is {wanted}. Write the number alone.")


def _divided(above: int, below: int, text: str) -> float:
    if below == 0:
        raise NumberError(f"“{text.strip()}” divides by nothing. Write a number like 356.5.")
    return above / below
