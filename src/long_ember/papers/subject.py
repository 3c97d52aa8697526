"""What a paper is about, and what kinds of paper there are."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace

from long_ember.blanks import Blank
from long_ember.document import Answer
from long_ember.errors import NoAnswer
from long_ember.features import Piece
from long_ember.frozen import dataclass
from long_ember.fullsize import Drawing
from long_ember.jobs.plan import JobPlan
from long_ember.papers.flow import Masthead
from long_ember.papers.ink import PaperSize, Printed
from long_ember.records import LogEntry, Shop
from long_ember.storage import Book
from long_ember.units import Line, Measure

__all__ = ["Choices", "Option", "Paper", "Subject", "named_state"]

Choices = Mapping[str, str]


@dataclass(frozen=True)
class Subject:
    """What is printed about.

    Args:
        measure: how numbers are shown.
        shop: whose it is.
        day: as it is said on paper.
        answer: of the piece, None where there is none.
        state: its named state, "" for none.
        log: its entries.
        plan: of jobs, None where there are none.
        blank: of sheet, None where there is none.
        compared: name of what the piece is compared with, and the lines.
    """

    measure: Measure
    shop: Shop
    day: str
    answer: Answer | None = None
    state: str = ""
    log: tuple[LogEntry, ...] = ()
    plan: JobPlan | None = None
    blank: Blank | None = None
    compared: tuple[str, tuple[Line, ...]] = ("", ())

    @property
    def made(self) -> Answer:
        """The piece with all that follows from it.

        Raises:
            NoAnswer: there is none, or it is empty.
        """
        if self.answer is None or not self.answer.piece.features:
            raise NoAnswer("There is no piece to print.", "Open one, and add a feature.")
        return self.answer

    @property
    def planned(self) -> JobPlan:
        """The jobs.

        Raises:
            NoAnswer: there are none.
        """
        if self.plan is None or not self.plan.jobs:
            raise NoAnswer("There is no job to print.", "Put the piece into a job, or choose one on the Cut screen.")
        return self.plan

    def head(self, paper: str) -> Masthead:
        """What every page says of itself."""
        if self.plan is not None:
            return Masthead(", ".join(job.name for job in self.plan.jobs.values()), paper, "", self.day, self.measure)
        if self.answer is not None:
            return Masthead(self.answer.piece.name, paper, self.state, self.day, self.measure)
        return Masthead(self.blank.title if self.blank is not None else self.shop.name, paper, "", self.day, self.measure)


@dataclass(frozen=True)
class Option:
    """Something that goes onto a paper or not, or goes one way or another.

    Args:
        key: name on the command line.
        label: on screen.
        usual: value where nothing is chosen: yes or no, or one of the choices.
        choices: value and words; none for yes and no.
    """

    key: str
    label: str
    usual: str = "yes"
    choices: tuple[tuple[str, str], ...] = ()


@dataclass(frozen=True)
class Paper:
    """A kind of paper.

    Args:
        key: name on the command line.
        title: on screen.
        about: piece, jobs, either or any.
        tip: what it is for.
        options: what can be chosen.
        landscape: it usually lies.
        make: pages, for paper of a size, by what is chosen.
        drawings: the same at full size for other programs; None where it has none.
    """

    key: str
    title: str
    about: str
    tip: str
    options: tuple[Option, ...]
    landscape: bool
    make: Callable[[Subject, PaperSize, Choices], Printed]
    drawings: Callable[[Subject, Choices], list[Drawing]] | None = None

    def chosen(self, choices: Choices) -> dict[str, str]:
        """What is chosen, the usual where nothing is.

        Raises:
            NoAnswer: a choice that there is not.
        """
        found = {o.key: o.usual for o in self.options}
        for key, value in choices.items():
            option = next((o for o in self.options if o.key == key), None)
            allowed = [v for v, _w in option.choices] or ["yes", "no"] if option is not None else []
            if option is None or value not in allowed:
                known = ", ".join(f"{o.key}={'|'.join([v for v, _w in o.choices] or ['yes', 'no'])}" for o in self.options)
                raise NoAnswer(f"{self.title} has no choice {key}={value}.", f"It has {known}." if known else "It has none.")
            found[key] = value
        return found

    def printed(self, subject: Subject, size: PaperSize, choices: Choices) -> Printed:
        """Its pages, the document named after subject and paper."""
        return replace(self.make(subject, size, self.chosen(choices)), title=subject.head(self.title).title)


def named_state(book: Book, piece_id: str, piece: Piece) -> str:
    """The name of a piece's state, "" where it is no longer as it was when the newest was named.

    Raises:
        BookError: the named state is damaged.
    """
    newest = next(iter(book.revisions(piece_id)), None)
    return newest.name if newest is not None and book.revision(newest.id) == piece else ""
