"""Days as smiths write them."""

from __future__ import annotations

import re
from datetime import date, timedelta

from long_ember.errors import EntryError

__all__ = ["day_words", "parse_day"]

# Not by the system's locale: the program speaks one language, and a book is read on other machines.
_MONTHS = ("January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November", "December")
_NEAR = {"today": 0, "tomorrow": 1, "yesterday": -1}
_SPAN = r"in (\d{1,3}) (day|week)s?"
_NAME = r"(?P<name>[a-z]{3,9})\.?"
_FORMS = (
    r"(?P<year>\d{4})-(?P<month>\d{1,2})-(?P<day>\d{1,2})",
    r"(?P<day>\d{1,2})\. ?(?P<month>\d{1,2})\.? ?(?P<year>\d{4})?",
    rf"(?P<day>\d{{1,2}})(?:\.|st|nd|rd|th)? ?{_NAME},? ?(?P<year>\d{{4}})?",
    rf"{_NAME} ?(?P<day>\d{{1,2}})(?:st|nd|rd|th)?,? ?(?P<year>\d{{4}})?",
)
_EXAMPLE = "4 Dec 2026 or 2026-12-04"


def day_words(day: date) -> str:
    """A day as it is shown and typed.

    >>> day_words(date(2026, 12, 4))
    '4 Dec 2026'
    """
    return f"{day.day} {_MONTHS[day.month - 1][:3]} {day.year}"


def parse_day(text: str, *, today: date | None = None) -> date:
    """Read a day: 4 Dec 2026, 4 December, 2026-12-04, 4.12.2026, today, tomorrow, in 2 weeks.

    Args:
        text: what was typed; of a day without a year the nearest is meant.
        today: counted from; the clock's own when None.

    Raises:
        EntryError: no day can be read from it, or it could be two.

    >>> parse_day('4.12.2026')
    datetime.date(2026, 12, 4)
    """
    now, words = today or date.today(), " ".join(text.lower().split())
    if words in _NEAR:
        return now + timedelta(_NEAR[words])
    span = re.fullmatch(_SPAN, words)
    if span:
        return now + timedelta(int(span[1]) * (7 if span[2] == "week" else 1))
    if re.fullmatch(r"\d{1,2}[/-]\d{1,2}([/-]\d+)?", words):
        raise EntryError(text, 0, "day and month could be either way round: write the month as a word", _EXAMPLE)
    found = next((match.groupdict() for form in _FORMS if (match := re.fullmatch(form, words))), None)
    month = 0
    if found:
        name = found.get("name")
        month = int(found["month"]) if name is None else next((i for i, m in enumerate(_MONTHS, 1) if m.lower().startswith(name)), 0)
    if not found or not month:
        raise EntryError(text, 0, "a day and its month are expected here", _EXAMPLE)
    years = [int(found["year"])] if found["year"] else [now.year - 1, now.year, now.year + 1]
    days = [day for year in years if (day := _day(year, month, int(found["day"])))]
    if not days:
        raise EntryError(text, 0, "there is no such day", _EXAMPLE)
    return min(days, key=lambda day: abs(day - now))


def _day(year: int, month: int, day: int) -> date | None:
    try:
        return date(year, month, day)
    except ValueError:
        return None
