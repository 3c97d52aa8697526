"""The factors of a shop that nobody knows beforehand, each with how far it may usually lie off (computations, section 15)."""

from __future__ import annotations

from long_ember.frozen import NamedTuple

__all__ = ["FACTORS", "FIELDS", "Factor", "factor_of", "number_of"]


class Factor(NamedTuple):
    """One figure in doubt. It is kept as how far it lies from the usual; a multiple as its natural logarithm.

    Args:
        key: stable name, in files too.
        title: as the smith reads it.
        spread: standard deviation while nothing is known.
        multiple: it multiplies; otherwise it is added.
        whose: smith, fire, or shop: with whom, or with what, it changes.
        words: what it is, in a sentence.
        unit: of what is added: share, k, mm; "" for a multiple.
    """

    key: str
    title: str
    spread: float
    multiple: bool
    whose: str
    words: str
    unit: str = ""


# Order is that of means and covariances everywhere. Spreads after `learning.md`; those of slug, weld, saw and kin are this program's judgement.
FACTORS: tuple[Factor, ...] = (
    Factor("work", "Work", 0.5, True, "smith", "How much longer the work takes than for the smith of the model."),
    Factor("pace", "Minutes a heat", 0.3, True, "smith", "How much longer each heat lasts, at fire and anvil."),
    Factor("scale", "Scale each heat", 0.5, True, "fire", "How much more your fire takes than the oxidation model says of it."),
    Factor("bend", "Bend rule", 0.05, False, "shop", "How far k of your bends lies from the rule.", "k"),
    Factor("twist", "Shortening of a twist", 0.15, False, "shop", "How much more of the greatest shortening your twists take.", "share"),
    Factor(
        "capture", "Steel that goes sideways when spread", 0.1, False, "shop", "How much more of what is displaced goes sideways.", "share"
    ),
    Factor("slug", "Slug of a punched hole", 0.1, False, "shop", "How much more of a hole your punch takes out.", "share"),
    Factor("weld", "Weld loss", 0.35, False, "shop", "How much more a weld in your fire takes, in thicknesses.", "t"),
    Factor("saw", "Sawing and trimming", 0.5, False, "shop", "How much more you saw and trim off than you mean to.", "mm"),
    Factor("practice", "Practice", 0.07, False, "smith", "How much less a piece gains when twice as many are made.", "log₂"),
    Factor(
        "kin",
        "Practice in a manner of work",
        0.03,
        False,
        "smith",
        "How much less a piece gains when twice as many others were made with the same work.",
        "log₂",
    ),
)
_NUMBERS = {factor.key: i for i, factor in enumerate(FACTORS)}

# Fields of features that are figures in doubt, and the factor that stands for all of their kind.
FIELDS = {"shortening": "twist", "capture": "capture", "slug": "slug", "loss": "weld"}


def number_of(key: str) -> int:
    """Place of a factor in means and covariances; without a unit."""
    return _NUMBERS[key]


def factor_of(key: str) -> Factor:
    """A factor by its name."""
    return FACTORS[_NUMBERS[key]]
