"""Papers of the demo pieces, and what is read back from them."""

import io
from itertools import pairwise

import pdfplumber
from pypdf import PdfReader

from long_ember.demo import demo_parcel
from long_ember.document import answer
from long_ember.papers.ink import Lettering, Printed
from long_ember.papers.subject import Subject
from long_ember.records import Shop
from long_ember.units import Measure

MM = 72 / 25.4


def subject_of(piece, unit="mm", **more):
    return Subject(Measure(unit), Shop(name="Merrow Landing"), "4 Dec 2026", answer(piece, forge=Shop().forge), **more)


def demo_pieces():
    return {kept.piece.name: kept.piece for kept in demo_parcel().pieces}


def printed_words(printed: Printed) -> str:
    return " ".join(one.text for page in printed.pages for one in page.ink if isinstance(one, Lettering))


def read_back(pdf: bytes):
    """Text of every page as another program finds it, and the reader with all else."""
    reader = PdfReader(io.BytesIO(pdf))
    return [page.extract_text() for page in reader.pages], reader


def lines_of(pdf: bytes, page=0):
    """Straight strokes of a page, (x0, y0, x1, y1) in mm from its upper left corner."""
    with pdfplumber.open(io.BytesIO(pdf)) as opened:
        found = []
        shown = opened.pages[page]
        for one in (*shown.lines, *shown.curves):
            points = [(x / MM, y / MM) for x, y in one["pts"]]
            found += [(*a, *b) for a, b in pairwise(points)]
        for one in shown.rects:
            x0, y0, x1, y1 = (one[k] / MM for k in ("x0", "top", "x1", "bottom"))
            found += [(x0, y0, x1, y0), (x1, y0, x1, y1), (x0, y1, x1, y1), (x0, y0, x0, y1)]
        return found
