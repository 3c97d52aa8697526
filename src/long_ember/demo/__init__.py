"""The boathouse at Merrow Landing, all invented: its pieces shipped as piece files, its shop, rack, prices and job."""

from __future__ import annotations

from datetime import date
from pathlib import Path

from long_ember.records import (
    KIT,
    Assembly,
    AssemblyPart,
    Fitting,
    Forging,
    Iron,
    Job,
    JobBlank,
    JobLine,
    JobSet,
    Join,
    LogEntry,
    Price,
    RackItem,
    Record,
    Shop,
    Smith,
    StoreItem,
)
from long_ember.sections import flat, round_, square
from long_ember.storage import Parcel, PieceItem, piece_to_text, read_piece
from long_ember.storage.models import Reader

__all__ = ["demo_files", "demo_parcel"]

_YESTERDAY = 1_795_000_000.0  # s since 1970: a day of November 2026

_NAMES = (
    "lantern-bracket", "mooring-staple", "door-pull", "mooring-ring", "oar-cradle", "boat-hook-head", "gate-pintle", "caulking-iron", "back-plate",
)  # fmt: skip
_TAGS = {
    "lantern-bracket": ("boathouse", "wall"), "mooring-staple": ("mooring",), "mooring-ring": ("mooring",), "door-pull": ("boathouse", "door"),
    "oar-cradle": ("boathouse", "wall"), "gate-pintle": ("gate",), "boat-hook-head": ("tool",), "caulking-iron": ("tool", "hardened"), "back-plate": ("boathouse", "wall"),
}  # fmt: skip


def demo_files() -> tuple[Path, ...]:
    """Paths of the demo pieces, the lantern bracket first."""
    folder = Path(__file__).parent
    return tuple(folder / f"{name}.json" for name in _NAMES)


def demo_parcel() -> Parcel:
    """Everything the boathouse needs, to be brought into a book."""
    pieces = tuple(PieceItem(path.stem, read_piece(path), tags=_TAGS[path.stem]) for path in demo_files())
    records: tuple[tuple[str, Record], ...] = (
        ("rack-1", RackItem(section=square(12), length=3000, count=3, place="long arm")),
        ("rack-2", RackItem(section=round_(12), length=3000, count=2, place="long arm")),
        ("rack-3", RackItem(section=flat(40, 8), length=2000, count=1, place="long arm")),
        ("rack-4", RackItem(section=square(12), length=640, count=2, source="offcut", place="bin by the door")),
        ("rack-5", RackItem(section=round_(16), length=870, count=1, source="offcut", place="bin by the door")),
        ("rack-6", RackItem(material="high-carbon", section=flat(30, 6), length=410, count=1, source="offcut", place="tool steel, wrapped")),
        ("price-1", Price(section=square(12), length=6000, price=16.4, seller="ironmonger at the quay")),
        ("price-2", Price(section=round_(12), length=6000, price=13.1, seller="ironmonger at the quay")),
        ("price-3", Price(section=flat(40, 8), length=6000, price=34.5, seller="ironmonger at the quay")),
        ("price-4", Price(section=square(12), length=3000, price=9.1, seller="ironmonger at the quay")),
        ("price-6", Price(section=flat(30, 10), length=6000, price=27.2, seller="ironmonger at the quay")),
        ("price-7", Price(section=flat(40, 6), length=3000, price=13.9, seller="ironmonger at the quay")),
        ("price-5", Price(section=flat(1000, 2), length=2000, price=58.0, seller="ironmonger at the quay")),
        ("job-1", Job(name="North wall, boathouse", due=date(2027, 3, 19), note="Before the spring tides. Oars of four boats, lanterns either side of the door",
                      lines=(JobLine(piece="oar-cradle", quantity=8, spare=1),), rejects=0.05,
                      sets=(JobSet(assembly="assembly-1", quantity=2),),
                      blanks=(JobBlank(name="Drip plate", length=180, width=120, thickness=2, count=8),
                              JobBlank(name="Lamp tray", length=140, width=140, thickness=2, count=2, grain="along")),
                      fittings=(Fitting(name="Screw 8 × 60, countersunk", kind="screw", quantity=24), Fitting(name="Glass pane", quantity=8, price=3.2)),
                      bundle=4, asked=460.0)),
        ("job-3", Job(name="Door pulls, a pair", state="template", note="Begin a job from it: pulls go by the pair",
                      lines=(JobLine(piece="door-pull", quantity=2),), bundle=6)),
        ("job-2", Job(name="Slipway moorings", state="forging", note="Rings hang on staples set in the stone",
                      lines=(JobLine(piece="mooring-ring", quantity=6), JobLine(piece="mooring-staple", quantity=6, spare=1)))),
        ("assembly-1", Assembly(name="Lantern bracket on its plate", note="Left and right of the door: the other one is its mate",
                                parts=(AssemblyPart(piece="lantern-bracket"), AssemblyPart(piece="back-plate")),
                                joins=(Join(kind="tenon", first="A.f7", second="B.f4", turn=90.0),))),
        ("assembly-2", Assembly(name="Mooring ring on its staple",
                                parts=(AssemblyPart(piece="mooring-staple"), AssemblyPart(piece="mooring-ring")),
                                joins=(Join(kind="link", first="B.f2", second="A.f4", turn=40.0),))),
        ("assembly-3", Assembly(name="Boat-hook on its shaft", parts=(AssemblyPart(piece="boat-hook-head"),), handle="ash", handle_length=2400.0,
                                handle_across=35.0, handle_on="A.B", handle_over=110.0)),
        ("forging-1", Forging(piece="gate-pintle", name="Gate pintle", text=piece_to_text(read_piece(Path(__file__).parent / "gate-pintle.json")),
                              open=(Iron(frame=3, phase="wait", since=_YESTERDAY, heats=2),), spent=410.0, last=_YESTERDAY, paused=True)),
    )  # fmt: skip
    shop = Shop(name="Merrow Landing", fire="coal", hot_length=200.0, kit=tuple(k for k in KIT if k != "guillotine"),
                hour=24.0, overhead=6.5, fuel=4.8, finishing=4.0,
                stores=(StoreItem(name="Flux", kind="flux", there=250, unit="g", price=0.02), StoreItem(name="Wax", kind="wax", there=400, unit="g", price=0.03),
                        StoreItem(name="Screw 8 × 60", kind="screw", there=10, price=0.18), StoreItem(name="Drill bit 8", kind="bit", there=2, price=2.4),
                        StoreItem(name="Cutting oil", kind="oil", there=200, unit="ml", price=0.02)),
                smiths=(Smith(name="Smith of the landing"), Smith(name="Striker", hammer=4.5, tempo=45.0, skill="relaxed")))  # fmt: skip
    return Parcel(pieces, (*records, *_log()), shop)


def _log() -> tuple[tuple[str, Record], ...]:
    """What the smith of the landing has written down so far."""
    path = Path(__file__).parent / "log.json"
    reader = Reader()
    found = reader.read(path.read_text(encoding="utf-8"), lambda rows: [reader.model(LogEntry, row, "$") for row in rows])
    return tuple((f"log-{i}", entry) for i, entry in enumerate(found or (), 1))
