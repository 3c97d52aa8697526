"""Files for other programs."""

from long_ember.export.csv_out import cut_list_csv
from long_ember.export.outline_out import outline_dxf, outline_svg
from long_ember.export.solid_out import SOLID_KINDS, solid_bytes

__all__ = ["SOLID_KINDS", "cut_list_csv", "outline_dxf", "outline_svg", "solid_bytes"]
