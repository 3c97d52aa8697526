"""One search over everything: commands, shapes, pieces, jobs, tables, the guide. What it means to go there is each thing's own."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from functools import partial

from long_ember.frozen import dataclass
from long_ember.storage import Entry

__all__ = ["SHOWN", "Findable", "findable_pieces", "guide_sections", "matching"]

SHOWN = 40  # that are shown


@dataclass(frozen=True)
class Findable:
    """Something that can be gone to.

    Args:
        kind: what it is, in a word; "" where all are of a kind.
        title: as it is called.
        words: more words that find it.
        go: goes there.
        tip: said behind its title.
    """

    kind: str
    title: str
    words: str
    go: Callable[[], object]
    tip: str = ""


def matching(text: str, things: Iterable[Findable]) -> list[Findable]:
    """Things in which every word is found: those whose title begins so first, then those that have it in the title, then the rest.

    Args:
        text: what was typed; nothing finds nothing.
        things: in the order in which equals are shown.
    """
    wanted = text.lower().split()
    if not wanted:
        return []
    ranked = []
    for place, thing in enumerate(things):
        title = thing.title.lower()
        whole = f"{title} {thing.kind} {thing.words}".lower()
        if all(word in whole for word in wanted):
            starts = title.startswith(wanted[0])
            inside = all(word in title for word in wanted)
            word = all(re.search(rf"\b{re.escape(w)}", whole) for w in wanted)
            ranked.append((not (starts and inside), not inside, not word, place, thing))
    return [row[-1] for row in sorted(ranked, key=lambda row: row[:-1])[:SHOWN]]


def findable_pieces(entries: Iterable[Entry], go: Callable[[str], object], kind: str = "") -> list[Findable]:
    """Pieces as they are found by name, words and tags.

    Args:
        entries: of the book.
        go: what is done with the id of one.
        kind: what it is, where other things stand beside it.
    """
    return [Findable(kind, e.name, f"{e.words} {' '.join(e.tags)}", partial(go, e.id)) for e in entries]


def guide_sections(text: str) -> list[tuple[str, str]]:
    """Headings of a guide with what stands under each.

    Args:
        text: Markdown.
    """
    parts = re.split(r"^#{2,3} (.+)$", text, flags=re.MULTILINE)
    return list(zip(parts[1::2], parts[2::2], strict=True))
