"""Files: the book and its backups, pieces, parcels, tables, settings."""

from typing import TYPE_CHECKING

from long_ember.late import late
from long_ember.storage.atomic import write_atomic
from long_ember.storage.book import Book, Entry, Photo, Revision, new_id, piece_words, polygons_of
from long_ember.storage.copies import Backup, back_up, backups, put_back
from long_ember.storage.incoming import CHOICES, Incoming, bring_in, look_over
from long_ember.storage.keeper import Change, Keeper
from long_ember.storage.parcel import Parcel, PieceItem, pack, parcel_text, parcel_zip, read_parcel_file, record_parcel
from long_ember.storage.piece_file import FORMAT, VERSION, piece_from_text, piece_to_text, read_piece, write_piece
from long_ember.storage.salvage import salvaged
from long_ember.storage.settings_file import config_folder, read_settings, write_settings
from long_ember.storage.startup import Opened, book_path, data_folder, looked_at, open_book, writer

if TYPE_CHECKING:
    from long_ember.storage.photos import read_photo
    from long_ember.storage.schema import book_schema, piece_schema
    from long_ember.storage.starts_file import starts
    from long_ember.storage.tables import TABLES, read_table, table_csv
    from long_ember.storage.trace_file import read_curves
else:
    __getattr__ = late(
        __name__,
        {
            "photos": ("read_photo",),
            "starts_file": ("starts",),
            "schema": ("book_schema", "piece_schema"),
            "tables": ("TABLES", "read_table", "table_csv"),
            "trace_file": ("read_curves",),
        },
    )

__all__ = [
    "CHOICES",
    "FORMAT",
    "TABLES",
    "VERSION",
    "Backup",
    "Book",
    "Change",
    "Entry",
    "Incoming",
    "Keeper",
    "Opened",
    "Parcel",
    "Photo",
    "PieceItem",
    "Revision",
    "back_up",
    "backups",
    "book_path",
    "book_schema",
    "bring_in",
    "config_folder",
    "data_folder",
    "look_over",
    "looked_at",
    "new_id",
    "open_book",
    "pack",
    "parcel_text",
    "parcel_zip",
    "piece_from_text",
    "piece_schema",
    "piece_to_text",
    "piece_words",
    "polygons_of",
    "put_back",
    "read_curves",
    "read_parcel_file",
    "read_photo",
    "read_piece",
    "read_settings",
    "read_table",
    "record_parcel",
    "salvaged",
    "starts",
    "table_csv",
    "write_atomic",
    "write_piece",
    "write_settings",
    "writer",
]  # fmt: skip
