"""Kill a writer at random, again and again; after each kill the book is whole and at most the last edit is missing.

Run by test_book in a process of its own: it forks, and a fork of a process with threads is no fair test.
"""

import os
import random
import signal
import sys
import time
from dataclasses import replace
from pathlib import Path

from long_ember.document import Document, set_piece
from long_ember.features import Piece
from long_ember.features.run import Run
from long_ember.storage import Change, Keeper, open_book, writer
from long_ember.storage.database import integrity_problem


def write_on(path: Path, told: int, start: int) -> None:
    """Edit one piece for ever; tell each number once its edit is on disk."""
    keeper = Keeper(writer(path))
    document = Document(replace(Piece(name="hook"), features=(Run(id="a", length=100.0),)))
    number = start
    while True:
        number += 1
        document.apply(set_piece(document.piece, "note", f"{number} {'x' * random.randrange(4000)}"))
        piece, history = document.piece, document.history
        keeper.put(Change("piece/p", lambda book, p=piece, h=history: book.put_piece("p", p, h), piece))
        keeper.put(Change("fact/n", lambda book, n=number: book.put_fact("n", str(n))))
        if keeper.flush():
            os.write(told, b"%d\n" % number)


def main(folder: Path, kills: int) -> int:
    """Print how many kills there were, how many edits were written, and how many books were torn."""
    path, done, written, torn = folder / "killed.ember", 0, 0, 0
    random.seed(7)
    while done < kills:
        read, write = os.pipe()
        child = os.fork()
        if child == 0:
            write_on(path, write, written)
        os.close(write)
        time.sleep(random.uniform(0.005, 0.12))
        os.kill(child, signal.SIGKILL)
        os.waitpid(child, 0)
        with os.fdopen(read, "rb") as pipe:
            numbers = pipe.read().split()
        acknowledged = int(numbers[-1]) if numbers else written
        opened = open_book(path)
        book = opened.reader()
        found = int(book.fact("n") or 0)
        faults = [*map(str, opened.notices), *map(str, book.check()), str(integrity_problem(book.connection) or "")]
        faults.append(f"{acknowledged} was acknowledged, {found} is there" if found < acknowledged else "")
        if found:
            piece, history = book.piece("p"), book.history("p")
            # Piece and number are two changes: killed between them, the piece is one edit ahead. It is never behind.
            ahead = int(piece.note.split()[0]) - found
            faults.append(f"the piece is {ahead} ahead" if ahead not in (0, 1) else "")
            faults.append("another step was the last" if history.steps[-1].edit.after != piece or history.at != len(history.steps) else "")
        whole = not any(faults)
        if not whole:
            print("torn:", *filter(None, faults), file=sys.stderr)
        opened.close()
        torn += not whole
        written, done = max(found, written), done + 1
    print(done, written, torn)
    return 0 if torn == 0 else 1


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1]), int(sys.argv[2])))
