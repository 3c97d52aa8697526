"""Kill the real window while somebody types into it; print for each kill how old the oldest key was that is missing, in seconds.

A process of its own: it forks before Qt has begun, each child opens a window of its own.
"""

import os
import random
import signal
import sys
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))
os.environ["QT_QPA_PLATFORM"] = "offscreen"
os.environ["QT_LOGGING_RULES"] = "*=false"

import long_ember.ui.app as app
import long_ember.ui.book.book_view
from long_ember.features import Piece
from long_ember.storage import open_book
from long_ember.storage.database import transaction

_PIECE = "typed"


def type_on(path: Path, told: int, field: str) -> None:
    """Type for ever, a key every 30 to 120 ms; tell each text and its moment."""
    from PySide6.QtCore import QTimer
    from PySide6.QtTest import QTest

    from tests.window_case import live

    application = app.make_application(["kill"])
    window = app.make_window(None, book=path)
    window.show()
    if field == "name":
        entry = window.header.name
    else:
        window.show_view(5)
        window.book.wall.choose(_PIECE)
        entry = window.book.card.note
    entry.setFocus()
    live(60)
    rng, text = random.Random(os.getpid()), []

    def key() -> None:
        letter = rng.choice("abcdefgh")
        QTest.keyClicks(entry, letter)
        text.append(letter)
        os.write(told, f"{time.monotonic():.4f} {''.join(text)}\n".encode())
        QTimer.singleShot(rng.randrange(30, 120), key)

    (window.header.name.selectAll if field == "name" else lambda: None)()
    key()
    application.exec()


def main(folder: Path, kills: int, seed: int) -> int:
    """Print the losses."""
    rng = random.Random(seed)
    assert long_ember.ui.book.book_view
    for number in range(kills):
        path, field = folder / f"window{number}.ember", ("name", "note")[number % 2]
        opened = open_book(path)
        with transaction(opened.reader().connection):
            opened.reader().put_piece(_PIECE, Piece(name=""))
            opened.reader().put_fact("open", _PIECE if field == "name" else "")
            opened.reader().put_piece("other", Piece(name="Other"))
            if field == "note":
                opened.reader().put_fact("open", "other")
        opened.close()
        read, write = os.pipe()
        child = os.fork()
        if child == 0:
            type_on(path, write, field)
        os.close(write)
        with os.fdopen(read, "rb") as pipe:
            first = pipe.readline()  # it types
            time.sleep(rng.uniform(0.2, 1.6))
            os.kill(child, signal.SIGKILL)
            killed = time.monotonic()
            os.waitpid(child, 0)
            rows = [line.split() for line in (first + pipe.read()).decode().splitlines()]
        opened = open_book(path)
        piece = opened.reader().piece(_PIECE)
        kept = piece.name if field == "name" else piece.note
        opened.close()
        missing = [float(at) for at, text in rows if len(text) > len(kept)]
        assert all(text[: len(kept)] == kept or kept[: len(text)] == text for _at, text in rows), (kept, rows)
        print(f"{killed - missing[0] if missing else 0.0:.4f}", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1]), int(sys.argv[2]), int(sys.argv[3])))
