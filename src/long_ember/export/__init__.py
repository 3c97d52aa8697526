"""Files for other programs."""

from typing import TYPE_CHECKING

from long_ember.late import late

if TYPE_CHECKING:
    from long_ember.export.csv_out import cut_list_csv
    from long_ember.export.cuts_out import cut_list_schema, cuts_csv, job_json, quote_csv, shopping_csv
    from long_ember.export.forge_html import heats_html
    from long_ember.export.heats_out import heats_csv, heats_json
    from long_ember.export.outline_out import drawing_dxf, drawing_svg, piece_drawing
    from long_ember.export.solid_out import SOLID_KINDS, solid_bytes
else:
    __getattr__ = late(
        __name__,
        {
            "csv_out": ("cut_list_csv",),
            "cuts_out": ("cut_list_schema", "cuts_csv", "job_json", "quote_csv", "shopping_csv"),
            "forge_html": ("heats_html",),
            "heats_out": ("heats_csv", "heats_json"),
            "outline_out": ("drawing_dxf", "drawing_svg", "piece_drawing"),
            "solid_out": ("SOLID_KINDS", "solid_bytes"),
        },
    )

__all__ = [
    "SOLID_KINDS",
    "cut_list_csv",
    "cut_list_schema",
    "cuts_csv",
    "drawing_dxf",
    "drawing_svg",
    "heats_csv",
    "heats_html",
    "heats_json",
    "job_json",
    "piece_drawing",
    "quote_csv",
    "shopping_csv",
    "solid_bytes",
]
