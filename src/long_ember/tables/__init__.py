"""Tables that hang on a shop's wall: made by formula where there is one, with their source."""

from long_ember.tables.lists import WALL_TABLES, Table, table_of, tables_with

__all__ = ["WALL_TABLES", "Table", "table_of", "tables_with"]
