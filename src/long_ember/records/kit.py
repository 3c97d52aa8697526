"""The tools a shop has, and which of them an operation asks for."""

from __future__ import annotations

from collections.abc import Iterable

__all__ = ["KIT", "PLAIN_TOOLS", "missing_tools", "tool_words"]

# key: what it is called in the settings, and the words of the operations that it answers.
KIT: dict[str, tuple[str, tuple[str, ...]]] = {
    "horn": ("Anvil with a horn", ("horn", "small anvil")),
    "vice": ("Post or leg vice", ("vice", "clamp")),
    "forks": ("Bending forks", ("fork", "scroll fork")),
    "jig": ("Scroll gauge or jig", ("scroll gauge", "gauge")),
    "wrench": ("Twisting wrench", ("twisting wrench",)),
    "fullers": ("Fullers or a cross peen", ("fullers", "fuller", "cross peen", "peen hammer", "ball fuller")),
    "guillotine": ("Guillotine or set hammer", ("guillotine", "set hammer")),
    "swages": ("Swages", ("swage", "ball swage")),
    "headers": ("Headers and a monkey tool", ("header", "monkey tool")),
    "rivets": ("Rivet sets", ("rivet set",)),
    "bolster": ("Bolster", ("bolster",)),
    "mandrel": ("Mandrels", ("mandrel",)),
    "punches": ("Punches", ("punch", "slot punch", "centre punch")),
    "drifts": ("Drifts", ("drift",)),
    "chisels": ("Hot chisels", ("hot chisel", "chisel", "veining chisel", "line chisel")),
    "hardy": ("Cutting hardy", ("hardy",)),
    "plate": ("Cutting plate", ("cutting plate",)),
    "block": ("Floor or soft block", ("floor block", "soft block")),
    "saw": ("Saw", ("saw",)),
    "drill": ("Drill", ("drill",)),
    "welder": ("Arc welder and grinder", ("arc welder", "grinder")),
    "dies": ("Taps and dies", ("die and stock", "tap and wrench")),
    "flux": ("Flux and a welding fire", ("flux",)),
    "tongs": ("A second pair of tongs", ("second pair of tongs",)),
}
_ANSWERS = {word: key for key, (_title, words) in KIT.items() for word in words}


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


def tool_words(tools: Iterable[str], kit: Iterable[str]) -> str:
    """Tools in a sentence, and which of them the kit lacks."""
    tools = tuple(tools)
    missing = missing_tools(tools, kit)
    words = f"Tools: {', '.join(tools)}."
    return f"{words} Not in your kit: {', '.join(missing)}; make or borrow it, or do this another way." if missing else words
