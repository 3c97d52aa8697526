"""The pages of the shop as data: what each decides, and its fields."""

from __future__ import annotations

from long_ember.frozen import NamedTuple

__all__ = ["SHOP_PAGES", "ShopPlace"]


class ShopPlace(NamedTuple):
    """A page of the shop.

    Args:
        key: what commands and links call it.
        title: in the list.
        words: what it decides.
        names: of its fields.
        columns: of what is ticked.
    """

    key: str
    title: str
    words: str
    names: tuple[str, ...]
    columns: int = 2


SHOP_PAGES = (
    ShopPlace("measures", "Measures", "How every length is shown and typed.", ("name", "unit", "denominator", "ruler")),
    ShopPlace("saw", "The length to saw", "Marks, sheets, cut list and prices are made for it.", ("saw", "confidence", "margin")),
    ShopPlace("pieces", "New pieces", "What a new piece begins with; a piece that is there keeps its own.",
          ("school", "source", "scale", "trim", "parting", "bite")),
    ShopPlace("bars", "Bars", "What you buy, what the saw takes, what is worth keeping.",
          ("bar_length", "kerf", "end_trim", "hold", "keep", "offer")),
    ShopPlace("sheet", "Sheet", "The sheets that you buy.", ("sheet_length", "sheet_width", "margin_sheet")),
    ShopPlace("fire", "Fire", "How much bar one heat can hold, and how long it takes.",
          ("fire", "hot_length", "opening", "door", "depth", "slow", "irons")),
    ShopPlace("smiths", "Smiths", "The first one is at the anvil: their hammer and hand set the number of heats.", ("smiths",)),
    ShopPlace("anvil", "Anvil and marking out", "How far work lies past the edge, and what lengths are carried with.",
          ("anvil", "edge", "dividers", "peg")),
    ShopPlace("blows", "Heavy blows", "Who or what strikes beside the smith.", ("ram", "striker")),
    ShopPlace("kit", "Kit", "What is not here is not planned with: the heats take another way.", ("kit",), 4),
    ShopPlace("schools", "Where smiths differ", "The usual way in this shop; a piece may go its own.",
          ("first", "warming", "ends", "bends", "heads", "rhythm", "touch")),
    ShopPlace("rules", "Own rules of order", "What comes before what in this shop.", ("rules",)),
    ShopPlace("own", "Own work", "Operations of your own, for any piece; they are described in the sequence of a piece.", ("own",)),
    ShopPlace("costs", "Costs", "In your own money, whatever it is; 0 leaves a thing out.",
          ("hour", "overhead", "fuel", "finishing", "market", "wholesale")),
    ShopPlace("stores", "Stores", "Rivets, screws, flux, wax: what lies there, and what one costs.", ("stores",)),
)  # fmt: skip
