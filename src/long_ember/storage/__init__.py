"""Files: pieces, settings."""

from long_ember.storage.atomic import write_atomic
from long_ember.storage.piece_file import FORMAT, VERSION, piece_from_text, piece_to_text, read_piece, write_piece
from long_ember.storage.schema import piece_schema
from long_ember.storage.settings_file import config_folder, read_settings, write_settings
from long_ember.storage.trace_file import read_curve

__all__ = [
    "FORMAT", "VERSION", "config_folder", "piece_from_text", "piece_schema", "piece_to_text", "read_curve", "read_piece", "read_settings",
    "write_atomic", "write_piece", "write_settings",
]  # fmt: skip
