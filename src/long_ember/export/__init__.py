"""Files for other programs."""

from long_ember.export.csv_out import cut_list_csv

__all__ = ["cut_list_csv"]
