"""Everything that can be done from menus and by keys, as data: id, title, keys, when it can be done, and what does it."""

from __future__ import annotations

from functools import partial

from long_ember.demo import demo_parcel
from long_ember.document import add_half, in_order, make_mate, move, pin_order, turn_round
from long_ember.features import KIND_FAMILIES, KINDS
from long_ember.ui.actions.clipboard import copy_chosen, copy_line, paste
from long_ember.ui.answer_bar import choose_sawn
from long_ember.ui.book.shop_pages import SHOP_PAGES
from long_ember.ui.rail import SCREENS
from long_ember.ui.shape.strip import add_kind
from long_ember.ui.widgets.commands import Command
from long_ember.ui.widgets.entry import EntryField
from long_ember.ui.widgets.menus import Layout, Small
from long_ember.ui.window import MainWindow

__all__ = ["LAYOUT", "commands_of"]

LAYOUT: Layout = (
    (
        "&File",
        (
            ("file.new", "file.photo", "file.curve", "file.open"),
            ("file.state", "file.start", "file.job", "file.together"),
            ("file.print", "file.again", "file.heatsheet"),
            ("file.in", "file.demo"),
            Small("Write to a file", ("file.out", "file.shown", "file.whole", "file.csv", "file.heats", "file.solid", "file.picture")),
            ("file.other", "file.backups"),
            ("file.quit",),
        ),
    ),
    (
        "&Edit",
        (
            ("edit.undo", "edit.redo"),
            ("edit.copy", "edit.copyline", "edit.paste", "edit.duplicate", "edit.repeat", "edit.remove"),
            ("edit.left", "edit.right", "edit.own"),
        ),
    ),
    (
        "&Piece",
        (
            ("edit.line", "view.bar", "edit.fit", "edit.scale"),
            ("edit.half", "edit.mate", "edit.round"),
            ("edit.saw", "edit.unpin"),
            ("edit.log",),
        ),
    ),
    ("&Add", (("view.catalogue",), *(Small(title, tuple(f"add.{cls.kind}" for cls in family)) for title, family in KIND_FAMILIES.items()))),
    (
        "&View",
        (
            (*(f"view.{verb}" for verb, _word in SCREENS), "view.forge"),
            ("view.side", "view.plan", "view.turned", "view.in", "view.out", "view.fit"),
            ("view.sum", "view.rules", "view.own", "view.batch", "view.taught"),
            ("view.calculator", "view.blanks", "view.tables"),
            ("view.units", "view.theme"),
        ),
    ),
    (
        "&Shop",
        (
            *(tuple(f"shop.{p.key}" for p in SHOP_PAGES[low:high]) for low, high in ((0, 5), (5, 11), (11, 15))),
            ("shop.instruments",),
        ),
    ),
    ("&Help", (("help.find", "help.keys"),)),
)


def _find(window: MainWindow) -> None:
    from long_ember.ui.finding import ask_find

    ask_find(window)


def commands_of(window: MainWindow) -> list[Command]:
    """All commands of the window; where they stand in the menus says `LAYOUT`."""
    files, work = window.files, window.work
    session = window.session

    steps = work.timeline

    def unfinished() -> EntryField | None:
        """An entry that holds something tried or refused: the first Undo restores it, and nothing else."""
        entry = window.focusWidget()
        return entry if isinstance(entry, EntryField) and entry.unfinished else None

    def undo() -> None:
        entry = unfinished()
        if entry is not None:
            entry.restore()
        else:
            steps.undo()

    def chosen() -> bool:
        return session.piece.index(session.selection) >= 0

    def held() -> bool:
        return session.piece.feature(session.selection) is not None

    def shift(by: int) -> None:
        if chosen():
            session.attempt(move, session.selection, session.piece.index(session.selection) + by)
        else:
            session.attempt(in_order, session.selection, by)

    def titled(word: str, what: str) -> str:
        return f"{word} {what[:1].lower()}{what[1:]}" if what else word

    return [
        Command("file.new", "New piece…", window.show_begin, "Ctrl+N", tip="By its picture and a few sizes, or written as a line"),
        Command(
            "file.photo",
            "From a photo or drawing…",
            window.show_photo,
            "Ctrl+Shift+N",
            tip="Followed along its middle; or the finished piece held against the plan",
        ),
        Command("edit.line", "As a line…", window.show_line, "Ctrl+J", tip="The whole piece written out, to read, change and send"),
        Command(
            "file.job",
            "Into a job…",
            partial(window.ask_book_question, "IntoJob"),
            "Ctrl+Shift+J",
            lambda: bool(session.piece.features),
            "So many of this piece",
        ),
        Command(
            "file.together",
            "Put pieces together…",
            partial(window.ask_book_question, "PutTogether"),
            "Ctrl+Shift+A",
            tip="An assembly of pieces that you tick",
        ),
        Command(
            "file.start",
            "Make it a start…",
            window.ask_start,
            "",
            lambda: bool(session.piece.features),
            "New piece offers it, and asks for the sizes you choose",
        ),
        Command("edit.copyline", "Copy as a line", partial(copy_line, session), "Ctrl+Shift+C", lambda: bool(session.piece.features)),
        Command("file.open", "From the book…", partial(window.show_view, len(SCREENS) - 1), "Ctrl+O"),
        Command(
            "file.state",
            "Name this state…",
            lambda: work.ask_state(session.piece_id),
            "Ctrl+S",
            tip="Everything is kept by itself",
        ),
        Command("file.in", "Bring in…", work.ask_in, "Ctrl+Shift+I", tip="Pieces, jobs, rack or prices from JSON, CSV, ZIP or a book"),
        Command("file.demo", "Bring in the demo pieces", lambda: work.review(demo_parcel(), "Merrow Landing")),
        Command("file.out", "Write the piece to a file…", files.ask_out, "Ctrl+Shift+S"),
        Command("file.shown", "Write the pieces in sight to a file…", files.ask_shown, "", window.on_book, "Those on the wall, as found"),
        Command("file.whole", "Write the whole book to a file…", files.ask_whole),
        Command("file.backups", "Backups…", window.ask_backups),
        Command("file.other", "Another book…", window.ask_book, "Ctrl+Shift+O"),
        Command("file.csv", "Cut list as CSV…", files.ask_csv, "Ctrl+E", lambda: session.answer.cuts is not None or window.on_jobs()),
        Command(
            "file.print", "Print…", window.ask_print, "Ctrl+P", tip="What belongs to the screen in sight, and everything else on paper"
        ),
        Command(
            "file.again",
            "Print it again",
            files.print_again,
            "Ctrl+Alt+P",
            tip="The last paper once more, to where it went, as the piece is now",
        ),
        Command(
            "file.heatsheet",
            "Print the heat sheet…",
            partial(files.ask_print, "heats"),
            "Ctrl+Shift+P",
            lambda: bool(session.answer.plan.packed),
            "The sequence for the wall, with boxes to tick",
        ),
        Command("view.rules", "Rules of order…", window.show_rules, "Ctrl+Shift+U", lambda: bool(session.answer.plan.packed)),
        Command("view.own", "Own work…", window.show_own, "Ctrl+Shift+W", lambda: bool(session.piece.features)),
        Command("view.batch", "Batch…", window.show_batch, "Ctrl+Shift+B", lambda: bool(session.answer.plan.packed)),
        Command("view.taught", "What the log has taught…", window.show_taught, "Ctrl+Shift+T"),
        Command(
            "edit.saw",
            lambda: "Saw the likely length" if session.answer.reckoning.sawing.choice == "safe" else "Saw the safe length",
            lambda: choose_sawn(session),
            "Ctrl+Shift+K",
            lambda: bool(session.piece.features),
        ),
        Command("edit.log", "Log what happened…", lambda: window.ask_log(), "Ctrl+Shift+L", lambda: bool(session.answer.plan.packed)),
        Command(
            "edit.unpin",
            "Unpin the order",
            lambda: session.attempt(pin_order, (), "Unpin the order"),
            "",
            lambda: bool(session.piece.planning.pins),
        ),
        Command(
            "file.heats",
            "Heats as a table, JSON or a page for a phone…",
            files.ask_heats,
            "Ctrl+Shift+E",
            lambda: bool(session.answer.plan.packed),
        ),
        Command("file.curve", "Curve from a drawing…", files.ask_curve, "Ctrl+I", tip="A centreline from an SVG or DXF file, as a bend"),
        Command("file.picture", "Picture of this screen…", window.ask_picture, "", tip="Its drawing as SVG, or as PNG of any width"),
        Command("file.solid", "Solid as STL or OBJ…", files.ask_solid, "", lambda: bool(session.piece.features)),
        Command("file.quit", "Quit", window.close, "Ctrl+Q"),
        Command(
            "edit.undo",
            lambda: titled("Undo", "what is typed" if unfinished() else steps.undo_title),
            undo,
            "Ctrl+Z",
            lambda: bool(unfinished() or steps.undo_title),
        ),
        Command(
            "edit.redo",
            lambda: titled("Redo", steps.redo_title),
            steps.redo,
            "Ctrl+Shift+Z",
            lambda: bool(steps.redo_title),
        ),
        Command(
            "edit.copy",
            "Copy feature",
            partial(copy_chosen, session),
            "Ctrl+C",
            held,
            "As a line: it can be pasted into another piece, or a message",
        ),
        Command(
            "edit.paste",
            "Paste",
            partial(paste, session, window.show_image),
            "Ctrl+V",
            tip="Features behind the chosen one; into an empty piece a whole piece",
        ),
        Command("edit.duplicate", "Duplicate feature", window.shape.strip.duplicate_selected, "Ctrl+D", chosen),
        Command("edit.remove", "Remove feature", session.take_out, "Ctrl+Del", held),
        Command("edit.left", lambda: "Move feature toward A" if chosen() else "Do it earlier", lambda: shift(-1), "Ctrl+Shift+Left", held),
        Command("edit.right", lambda: "Move feature toward B" if chosen() else "Do it later", lambda: shift(1), "Ctrl+Shift+Right", held),
        Command(
            "edit.own",
            lambda: window.shape.inspector.switch.text().replace(" it ", " feature ", 1),
            window.shape.inspector.switch.switch,
            "Ctrl+Shift+Y",
            lambda: not window.shape.inspector.switch.isHidden(),
        ),
        Command("edit.fit", "Use a bar exactly…", partial(window.ask, "FitBar"), "Ctrl+G", chosen),
        Command("edit.repeat", "Repeat feature…", partial(window.ask, "Repeat"), "", chosen),
        Command("edit.scale", "Scale the design…", work.ask_scale, "", lambda: bool(session.piece.features)),
        Command(
            "edit.mate",
            "Mirror it: the other of a pair",
            partial(session.attempt, make_mate),
            "",
            held,
            "A left hand becomes a right hand; the piece on the bench changes",
        ),
        Command(
            "edit.half",
            "Add the other half",
            partial(session.attempt, add_half),
            "",
            held,
            "What is planned up to the middle once more, ends exchanged",
        ),
        Command("edit.round", "Exchange the ends", partial(session.attempt, turn_round), "", held),
        *(Command(f"add.{kind}", cls.title, partial(add_kind, session, kind)) for kind, cls in KINDS.items()),
        *(Command(f"view.{verb}", word, partial(window.show_view, i), f"Ctrl+{i + 1}") for i, (verb, word) in enumerate(SCREENS)),
        Command(
            "view.forge",
            "Forge, at the anvil",
            window.anvil.show,
            "F11",
            tip="One heat fills the screen",
        ),
        Command("view.catalogue", "All shapes", window.show_catalogue, "Ctrl+K"),
        Command("view.calculator", "Calculator", window.show_calculator, "Ctrl+R"),
        Command("view.blanks", "Sheet and plate", window.show_blanks, "Ctrl+Shift+R"),
        Command("view.side", "From the side", partial(window.shape.canvas.look_from, "side"), "Alt+1"),
        Command("view.plan", "From above", partial(window.shape.canvas.look_from, "plan"), "Alt+2"),
        Command("view.turned", "Turned, as a solid", window.look_turned, "Alt+3"),
        Command("view.sum", "Sum of the cut length", window.toggle_sum, "Ctrl+L"),
        Command("view.bar", "Type the bar", window.focus_bar, "Ctrl+B"),
        Command("view.units", "Switch mm and inch", window.header.toggle_units, "Ctrl+U"),
        Command("view.theme", "Switch light and dark", window.header.toggle_theme, "Ctrl+T"),
        Command("view.in", "Zoom in", lambda: window.shape.canvas.zoom(1.25), "Ctrl++"),
        Command("view.out", "Zoom out", lambda: window.shape.canvas.zoom(0.8), "Ctrl+-"),
        Command("view.fit", "Fit", lambda: window.shape.canvas.fit(), "Ctrl+0"),
        *(Command(f"shop.{p.key}", f"{p.title}…", partial(window.show_shop, p.key), "", tip=p.words) for p in SHOP_PAGES),
        Command(
            "shop.instruments",
            "Instruments…",
            window.anvil.ask_instruments,
            "",
            tip="Calliper, scale, pyrometer, foot pedal, oven thermometer",
        ),
        Command("view.tables", "Tables", lambda: window.show_tables(), "Ctrl+Alt+T", tip="Threads, drills, gauges, colours, masses, bends"),
        Command(
            "help.find",
            "Find anything…",
            partial(_find, window),
            "Ctrl+F",
            tip="Shapes, pieces, jobs, tables, the guide, and everything that can be done",
        ),
        Command("help.keys", "Keys and ways to type lengths", lambda: window.show_help(), "F1"),
    ]
