"""A paper as a file: PDF, or at full size SVG or DXF, by the file's ending."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from long_ember.errors import NoAnswer
from long_ember.export import drawing_dxf, drawing_svg
from long_ember.fullsize import side_by_side
from long_ember.papers.ink import PaperSize
from long_ember.papers.pdf import pdf_bytes
from long_ember.papers.subject import Choices, Paper, Subject
from long_ember.storage import write_atomic

__all__ = ["FORMS", "paper_bytes", "write_paper"]

FORMS = {"pdf": "PDF", "svg": "SVG at full size", "dxf": "DXF at full size"}
_ROW = 900.0  # mm, that a row of drawings may be long where there is no paper


def paper_bytes(paper: Paper, subject: Subject, kind: str, size: PaperSize, choices: Choices,
                progress: Callable[[int, int], None] | None = None) -> bytes:  # fmt: skip
    """The file.

    Args:
        paper: what kind of paper.
        subject: of what.
        kind: key of `FORMS`.
        size: of the paper, turned as it is to lie.
        choices: what goes on.
        progress: told how many pages of how many are done.

    Raises:
        NoAnswer: it can't be made of this, or not in this form.
    """
    if kind == "pdf":
        return pdf_bytes(paper.printed(subject, size, choices), progress)
    if kind not in FORMS or paper.drawings is None:
        forms = ", ".join(FORMS if paper.drawings is not None else ["pdf"])
        raise NoAnswer(f"{paper.title} can't be written as .{kind}.", f"End the file's name in {forms}.")
    drawings = paper.drawings(subject, paper.chosen(choices))
    if not drawings:
        raise NoAnswer("Nothing here has a form to draw at full size.", "Choose more of it, or add a bend, a taper or a hole.")
    whole = side_by_side(drawings, subject.head(paper.title).title, _ROW)
    return (drawing_svg if kind == "svg" else drawing_dxf)(whole).encode()


def write_paper(path: Path, paper: Paper, subject: Subject, size: PaperSize, choices: Choices,
                progress: Callable[[int, int], None] | None = None) -> None:  # fmt: skip
    """Write the file; an old one stays if that fails.

    Args:
        path: of the file; its ending says which kind.

    Raises:
        NoAnswer: see `paper_bytes`.
        SaveError: the file can't be written.
    """
    write_atomic(path, paper_bytes(paper, subject, path.suffix.lower().lstrip("."), size, choices, progress))
