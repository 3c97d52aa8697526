"""Pages as a PDF whose text is text: digits, fractions and ligatures can be searched, copied and read aloud."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from long_ember.papers.ink import Ink, Lettering, Printed
from long_ember.papers.letters import FEATURES, MM_PER_PT, face_file, width

if TYPE_CHECKING:
    from fpdf import FPDF

__all__ = ["pdf_bytes"]

_FAMILY = "Barlow{}"


def pdf_bytes(printed: Printed, progress: Callable[[int, int], None] | None = None) -> bytes:
    """The file.

    Args:
        printed: what is printed.
        progress: told how many pages of how many are done.
    """
    from fpdf import FPDF  # loaded with the first paper
    from fpdf.prefs import ViewerPreferences

    pdf = FPDF(unit="mm")
    pdf.set_auto_page_break(False)
    pdf.set_margin(0)
    pdf.c_margin = 0.0
    pdf.set_title(printed.title)
    pdf.set_lang("en-GB")
    pdf.set_creator("Long Ember")
    pdf.set_display_mode("fullpage", "single")
    pdf.viewer_preferences = ViewerPreferences(display_doc_title=True, print_scaling="None")  # what has full size keeps it
    for weight in sorted({one.weight for page in printed.pages for one in page.ink if isinstance(one, Lettering)}):
        pdf.add_font(_FAMILY.format(weight), "", face_file(weight))
    pdf.set_text_shaping(True, features=FEATURES)
    for number, page in enumerate(printed.pages):
        pdf.add_page(orientation="portrait", format=(page.width, page.height))
        for heading in dict.fromkeys(heading for heading, at in printed.contents if at == number):
            pdf.start_section(heading)
        for one in page.ink:
            _lay(pdf, one)
        if progress is not None:
            progress(number + 1, len(printed.pages))
    return bytes(pdf.output())


def _rgb(colour: str) -> tuple[int, int, int]:
    return int(colour[1:3], 16), int(colour[3:5], 16), int(colour[5:7], 16)


def _write(pdf: FPDF, x: float, one: Lettering) -> None:
    """By a cell, which takes fractions and ligatures from the face; `text` does not. Its baseline lies 0.8 of the size below its top."""
    size = one.size * MM_PER_PT
    pdf.set_xy(x, one.y - 0.8 * size)
    pdf.cell(width(one.text, one.size, one.weight) + 1.0, size, one.text)


def _lay(pdf: FPDF, one: Ink) -> None:
    if isinstance(one, Lettering):
        if not one.text.strip():
            return
        pdf.set_font(_FAMILY.format(one.weight), size=one.size)
        pdf.set_text_color(*_rgb(one.colour))
        x = one.x - (one.anchor + 1) / 2 * width(one.text, one.size, one.weight)
        if one.turn:
            with pdf.rotation(one.turn, one.x, one.y):
                _write(pdf, x, one)
        else:
            _write(pdf, x, one)
        return
    style = ("D" if one.wide else "") + ("F" if one.fill else "")
    if not style:
        return
    if one.wide:
        pdf.set_line_width(one.wide)
        pdf.set_draw_color(*_rgb(one.colour))
        pdf.set_dash_pattern(*(one.dash or (0, 0)))
    if one.fill:
        pdf.set_fill_color(*_rgb(one.fill))
    pdf.polyline(one.points.tolist(), polygon=one.closed, style=style)
