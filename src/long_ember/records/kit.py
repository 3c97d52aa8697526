"""The tools a shop has, and which of them an operation asks for."""

from __future__ import annotations

from collections.abc import Iterable

__all__ = ["KIT", "PLAIN_TOOLS", "grown", "holder_words", "missing_tools", "tool_words"]

# key: what it is called in the settings, and the words of the operations that it answers.
KIT: dict[str, tuple[str, tuple[str, ...]]] = {
    "grip": ("Tongs that fit", ("tongs that fit",)),
    "pliers": ("Locking pliers", ("locking pliers",)),
    "adjustable": ("Adjustable wrenches", ("adjustable wrench", "two wrenches")),
    "horn": ("Anvil with a horn", ("horn", "small anvil")),
    "hole": ("Hardy hole", ("hardy hole",)),
    "vice": ("Post or leg vice", ("vice", "clamp")),
    "forks": ("Bending forks", ("fork", "scroll fork")),
    "jig": ("Scroll gauge or jig", ("scroll gauge", "gauge", "jig")),
    "scroll-pliers": ("Scrolling pliers", ("scrolling pliers",)),
    "wrench": ("Twisting wrench", ("twisting wrench",)),
    "fullers": ("Fullers or a cross peen", ("fullers", "fuller", "cross peen", "peen hammer", "ball fuller")),
    "spring": ("Spring fullers", ("spring fuller", "spring fullers")),
    "guillotine": ("Guillotine or set hammer", ("guillotine", "set hammer")),
    "flatter": ("Flatter", ("flatter",)),
    "swages": ("Swages", ("swage", "ball swage")),
    "swage-block": ("Swage block", ("swage block",)),
    "headers": ("Headers", ("header",)),
    "monkey": ("Monkey tool", ("monkey tool",)),
    "heading-plate": ("Heading plate", ("heading plate",)),
    "rivets": ("Rivet sets", ("rivet set",)),
    "bolster": ("Bolster", ("bolster",)),
    "mandrel": ("Mandrels", ("mandrel",)),
    "punches": ("Punches", ("punch", "slot punch", "centre punch", "ball punch")),
    "drifts": ("Drifts", ("drift",)),
    "chisels": ("Hot chisels", ("hot chisel", "chisel", "veining chisel", "line chisel")),
    "hardy": ("Cutting hardy", ("hardy",)),
    "plate": ("Cutting plate", ("cutting plate",)),
    "block": ("Floor or soft block", ("floor block", "soft block")),
    "saw": ("Saw", ("saw",)),
    "grinder": ("Grinder", ("grinder",)),
    "drill": ("Drill", ("drill",)),
    "welder": ("Arc welder", ("arc welder",)),
    "torch": ("Torch", ("torch",)),
    "dies": ("Taps and dies", ("die and stock", "tap and wrench")),
    "flux": ("Flux and a welding fire", ("flux",)),
    "tongs": ("A second pair of tongs", ("second pair of tongs",)),
}
# Keys that came later, with the one that told of them before: whoever had that has them, and everybody had tongs and a hardy hole.
_LATER = {"grip": "", "hole": "", "monkey": "headers", "grinder": "welder"}
_ANSWERS = {word: key for key, (_title, words) in KIT.items() for word in words}


def grown(kit: Iterable[str]) -> tuple[str, ...]:
    """A kit as it was ticked before some tools had ticks of their own, with those that it held without saying so.

    >>> grown(("welder",))
    ('grip', 'hole', 'grinder', 'welder')
    """
    had = set(kit)
    return tuple(key for key in KIT if key in had or (key in _LATER and _LATER[key] in {"", *had}))


def missing_tools(tools: Iterable[str], kit: Iterable[str]) -> tuple[str, ...]:
    """Tools asked for of which the kit has no alternative; what every shop has (hammer, anvil, file) is never missing.

    >>> missing_tools(("hammer", "header or vice", "drill"), ("vice",))
    ('drill',)
    """
    owned = set(kit)
    return tuple(tool for tool in tools if all(_ANSWERS.get(word) not in (None, *owned) for word in tool.split(" or ")))


# What every smithy has and nobody is asked about; a tool that an operation names is here or is answered by the kit.
PLAIN_TOOLS = frozenset({
    "anvil", "anvil edge", "callipers", "dividers", "file", "hammer", "heavy hammer", "oil", "planishing hammer", "square", "stamps", "straight edge",
    "tongs for the piece", "touch mark", "water", "water can", "wire brush",
})  # fmt: skip


def holder_words(kit: Iterable[str]) -> str:
    """What a short piece is held with, by the kit.

    >>> holder_words(("grip", "pliers")), holder_words(("adjustable",))
    ('with tongs', 'with an adjustable wrench screwed tight')
    """
    owned = set(kit)
    ways = {"grip": "with tongs", "pliers": "with locking pliers", "adjustable": "with an adjustable wrench screwed tight"}
    return next((words for key, words in ways.items() if key in owned), "you have no tongs: wedge or weld a rod on for a handle")


def tool_words(tools: Iterable[str], kit: Iterable[str]) -> str:
    """Tools in a sentence, and which of them the kit lacks."""
    tools = tuple(tools)
    missing = missing_tools(tools, kit)
    words = f"Tools: {', '.join(tools)}."
    return f"{words} Not in your kit: {', '.join(missing)}; make or borrow it, or do this another way." if missing else words
