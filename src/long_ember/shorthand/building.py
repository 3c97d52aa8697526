"""The piece of what was read: features made, landmarks found, everything laid where it stands."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial
from typing import TypeVar

from long_ember.document import checked, drawn_beside, laid_on
from long_ember.errors import NoAnswer
from long_ember.features import Feature, Formed, Outer, Piece, Standing
from long_ember.fields import specs
from long_ember.sections import Section, flat
from long_ember.shorthand.drafts import Draft, Proposed, SaidLandmark, edge_way, takes_place, usual_place, usual_toward
from long_ember.shorthand.scanner import Scanner, ShorthandError
from long_ember.shorthand.vocabulary import kind_words, landmark_words, words_of
from long_ember.units import one

__all__ = ["Building", "centred"]

_T = TypeVar("_T")


class Building:
    """Makes features of drafts, and a piece of them.

    Args:
        scan: the line, for where a word stands that can't be meant.
        base: whose bar new sizes suit.
    """

    def __init__(self, scan: Scanner, base: Piece) -> None:
        self.scan, self.base = scan, base
        self.centred: list[tuple[str, str]] = []  # forms in the middle of a feature of the row: ids of both

    def limb(self, row: Sequence[Draft], standing: Sequence[Draft]) -> tuple[Feature | Standing, ...]:
        """Features of a tine or a bar welded on, then what stands on them."""
        half = _halved(self.scan.bar or self.base.bar)
        features = [self._feature_of(d, "A", half) for d in row]
        standing = [*(w for d in row for w in d.with_), *standing]
        hosts = {id(w): d for d in row for w in d.with_}
        names = [(d, f) for d, f in zip((*row, *standing), (*features, *(self._feature_of(s, "A", half) for s in standing)), strict=True)]
        placed = []
        for draft in standing:
            host = hosts.get(id(draft))
            feature = next(f for d, f in names if d is draft)
            if _goes_on(feature) and (draft.place.centred or (host is not None and draft.place.silent)):
                raise self.scan.fault("on a tine or a bar welded on, say where it begins", ("on the taper at 20",), draft.start)
            if host is not None and draft.place.silent:
                placed.append(Standing(feature=feature, on=host.id, edge="middle", along="B", at=0.0))
                continue
            if host is not None and draft.place.on is None:
                draft.place.on = host.id
            if draft.place.centred and draft.place.on is None and len(row) == 1:
                draft.place.on = row[0].id
            found = self._explicit(draft, feature, [f for _d, f in names], len(row))
            if found is None and isinstance(feature, Outer) and draft.place.silent and not placed:
                found = Standing(feature=feature, on="A", edge="A", along="B", at=0.0)  # the first that is rolled up there lies at its tip
            if found is None or (draft.place.centred and found.on in ("A", "B")):
                raise self.scan.fault("on a tine or a bar welded on, say where it stands", ("on the taper at 0",), draft.start)
            placed.append(found)
        return (*features, *placed)

    def _resolved(self, landmark: SaidLandmark, features: Sequence[Feature], own: str) -> str:
        """The id of what a landmark speaks of."""
        if landmark.name:
            found = [f for f in features if f.name == landmark.name and f.id != own]
        else:
            found = [f for f in features if f.id != own and landmark.words in landmark_words(f)]
            _kind, said = kind_words().get(landmark.words, ("", {}))
            found = [f for f in found if all(getattr(f, n) == v for n, v in said.items())] or found
        what = landmark.name or " ".join(landmark.words)
        if len(found) > 1 and not landmark.number and not landmark.name:
            ways = [f"{what} {i}" for i in range(1, len(found) + 1)]
            raise ShorthandError(
                self.scan.text, landmark.start, landmark.span, f"there are {len(found)} that could be meant by {what}", ways[:6]
            )
        number = landmark.number or len(found)
        if not found or number > len(found):
            shown = list(dict.fromkeys(f.title.lower() for f in features if f.id != own))
            raise ShorthandError(
                self.scan.text,
                landmark.start,
                landmark.span,
                f"there is no {what}{f' {number}' if found else ''} that it could stand on",
                shown[:6],
            )
        return found[number - 1 if number > 0 else number].id

    # --- the piece

    def _feature_of(self, draft: Draft, toward: str, bar: Section | None = None, *, standing: bool = False) -> Feature:
        try:
            made = draft.made(bar or self.base.bar, toward, self.scan.measure.unit)
        except NoAnswer as error:
            raise self._refused(error, draft) from None
        for name, q in draft.dealt.items():  # a number without a name that would mean nothing there is not taken silently
            if name in made.idle or (standing and name in made.of_bar):
                what = f"{q.text} says nothing of {one(made.title.lower())} as it is here"
                known = [" ".join(w) for w, field in words_of(draft.cls).fields.items() if field not in (*made.idle, "name", "note")]
                raise ShorthandError(self.scan.text, q.start, q.end - q.start, what, known[:6])
        return made

    def _refused(self, error: NoAnswer, draft: Draft | None) -> ShorthandError:
        start = draft.start if draft is not None else 0
        remedy = f" {error.remedy}" if error.remedy else ""
        scan = self.scan
        scan.at = start
        return ShorthandError(scan.text, start, max(len(scan.word()), 1), f"{error.reason.rstrip('.')}.{remedy}".rstrip("."))

    def _explicit(self, draft: Draft, feature: Feature, features: Sequence[Feature], rows: int) -> Standing | None:
        """What stands where the line says; None where it leaves that open."""
        place = draft.place
        on = self._resolved(place.on, features, draft.id) if isinstance(place.on, SaidLandmark) else place.on
        if on is None and place.at is not None:
            on = "A"
        if on in ("A", "B", None) or feature.stands != "work":
            if on is None or (place.at is None and not place.edge):
                return None
        elif place.at is None and not place.edge:  # a work without a distance lies in the middle
            return Standing(feature=feature, on=on, edge="middle", along="B", at=0.0)
        host = next((f for f in features if f.id == on), None)
        edge, along = usual_place(host, on, features[:rows])
        return Standing(
            feature=feature,
            on=on,
            edge=place.edge or edge,
            along=place.along or (edge_way(place.edge) if place.edge else along),
            at=place.at or 0.0,
        )

    def piece(self, piece: Piece, row: Sequence[Draft], standing: Sequence[Draft], drafts: Sequence[Draft]) -> tuple[Piece, list[Proposed]]:
        """A piece with the features of a row and what stands on them, and the sizes that the line leaves open.

        Args:
            piece: with its bar, and nothing on it.
            row: features in order, with the works that are said with them.
            standing: what is laid on them.
            drafts: all of them, in the order of the line.

        Raises:
            ShorthandError: at the word of what can't be made so.
        """
        by_id = {d.id: d for d in drafts}
        outers = [issubclass(d.cls, Outer) for d in row]
        features = [self._feature_of(d, usual_toward(outers, i), piece.bar) for i, d in enumerate(row)]
        piece = self._tried(lambda: checked(replace(piece, features=tuple(features))), by_id)
        piece, standing_in = self._beside(piece, row)
        features = list(piece.features)
        proposed = [p for d, f in zip(row, features, strict=True) for p in d.proposed(f, standing=False)] + standing_in
        if standing and not row:
            remedy = f"Say how long the bar is, {piece.bar.edit_text(self.scan.measure)} x 300 mm, or write a run before it."
            raise self._refused(NoAnswer("Nothing is drawn yet that it could stand on.", remedy), standing[0])
        works = [(w, d) for d in row for w in d.with_]
        everything = [*((w, host) for w, host in works), *((d, None) for d in standing)]
        made = {d.id: self._feature_of(d, "A", piece.bar, standing=True) for d, _host in everything}
        named = [*features, *made.values()]
        lengths = {identity: shape.length for identity, shape in piece.shapes} if works else {}
        placed: dict[str, Standing] = {}
        waiting: list[tuple[Draft, str]] = []
        for draft, host in everything:
            if host is not None and draft.place.silent:
                beside = [w.id for w in host.with_ if w.place.silent and takes_place(made[w.id])]
                if draft.id in beside and len(beside) > 1:  # several of a kind share the length of their shape
                    at = lengths[host.id] * (beside.index(draft.id) + 1) / (len(beside) + 1)
                    placed[draft.id] = Standing(feature=made[draft.id], on=host.id, edge="A", along="B", at=round(at, 1))
                    proposed.append(Proposed(draft.id, "place"))
                elif _goes_on(made[draft.id]):
                    placed[draft.id] = self._tried(partial(self._centred, piece, host.id, made[draft.id]), by_id, draft)
                else:
                    placed[draft.id] = Standing(feature=made[draft.id], on=host.id, edge="middle", along="B", at=0.0)
                continue
            if host is not None and draft.place.on is None:
                draft.place.on = host.id
            on = draft.place.on
            if draft.place.centred and on is None and features:
                on = draft.place.on = _middlemost(piece)
            within = self._resolved(on, named, draft.id) if isinstance(on, SaidLandmark) else on
            if draft.place.centred and _goes_on(made[draft.id]) and within is not None and piece.index(within) >= 0:
                placed[draft.id] = self._tried(partial(self._centred, piece, within, made[draft.id]), by_id, draft)
                continue
            found = self._explicit(draft, made[draft.id], named, len(row))
            if found is not None:
                placed[draft.id] = found
            else:
                if isinstance(on, SaidLandmark):
                    host_id = self._resolved(on, named, draft.id)
                elif on is None and not isinstance(made[draft.id], Outer):
                    host_id = _plainest(piece)
                else:
                    host_id = _end_of(on, features)
                waiting.append((draft, host_id))
        order = [d.id for d, _host in everything]
        if placed:
            known = [placed[i] for i in order if i in placed]
            piece = self._tried(partial(checked, replace(piece, standing=tuple(known))), by_id)
        # A curl without a place is at the very tip, what else is laid there comes behind it.
        for draft, on in sorted(waiting, key=lambda w: w[0].cls.kind != "curl"):
            piece = self._tried(partial(laid_on, piece, on, made[draft.id], ""), by_id, draft).after
            if made[draft.id].stands != "work":
                proposed.append(Proposed(draft.id, "place"))
        stood = {s.id: s for s in piece.standing}
        if list(stood) != order:
            piece = replace(piece, standing=tuple(stood[i] for i in order))
        proposed += [p for d, _host in everything for p in d.proposed(made[d.id], standing=True)]
        return piece, proposed

    def _beside(self, piece: Piece, row: Sequence[Draft]) -> tuple[Piece, list[Proposed]]:
        """The piece with what is bent beside drawn steel standing in that, where the line does not say what it stands in."""
        by_id, outers = {d.id: d for d in row}, [issubclass(d.cls, Outer) for d in row]
        open_ = [(i, d) for i, d in enumerate(row) if issubclass(d.cls, Formed) and "of" not in d.values]
        found: set[str] = set()
        for _round in range(len(open_)):  # a twist passes on what it stands in
            before = piece
            for i, draft in open_:
                beside = drawn_beside(piece, i - 1, i + 1)
                stands, section = beside or ("bar", piece.bar)
                if getattr(piece.features[i], "of", "") != stands:
                    made = replace(self._feature_of(draft, usual_toward(outers, i), section), of=stands)  # type: ignore[call-arg]
                    if "tip" in specs(made) and "tip" not in draft.values:
                        made = replace(made, tip=None)  # type: ignore[call-arg]  # it is drawn already
                    row_now = (*piece.features[:i], made, *piece.features[i + 1 :])
                    piece = self._tried(partial(checked, replace(piece, features=row_now)), by_id)
                    found.add(draft.id)
            if piece == before:
                break
        return piece, [Proposed(d.id, "of") for _i, d in open_ if d.id in found and getattr(piece.feature(d.id), "of", "") != "bar"]

    def _centred(self, piece: Piece, host_id: str, feature: Feature) -> Standing:
        self.centred.append((feature.id, host_id))
        return centred(piece, host_id, feature)

    def _tried(self, make: Callable[[], _T], by_id: dict[str, Draft], draft: Draft | None = None) -> _T:
        try:
            return make()
        except NoAnswer as error:
            raise self._refused(error, by_id.get(error.feature_id, draft)) from None


def _halved(bar: Section) -> Section:
    """About what a tine is made of, for what suits it: half the bar's width."""
    sides = sorted((bar.width / 2, bar.thickness))
    return flat(sides[1], sides[0])


def _goes_on(feature: Feature) -> bool:
    """It covers a stretch, and has a middle of its own that can lie in another's."""
    return feature.stands == "form" and not isinstance(feature, Outer)


def _middlemost(piece: Piece) -> str:
    """The feature of the row in which the middle of the drawn bar lies."""
    drawn = piece.composition.drawn
    return piece.features[drawn.host(drawn.length / 2)].id


def _plainest(piece: Piece) -> str:
    """Where a smith puts what is said without a place: on the longest plain bar, else on the longest that is straight."""
    edges = piece.composition.drawn.edges
    long = [(f.kind == "run", not f.curves, edges[i + 1] - edges[i], f.id) for i, f in enumerate(piece.features)]
    return max(long)[-1]


def centred(piece: Piece, host_id: str, feature: Feature) -> Standing:
    """A form whose middle lies in the middle of a feature of the row; what it covers hangs on what it finds there."""
    edges, index = piece.composition.drawn.edges, piece.index(host_id)
    made = Standing(feature=feature, on=host_id, edge="A", along="B", at=0.0)
    for _round in range(2):
        stand = replace(piece, standing=(made,)).composition.stand(feature.id)
        assert stand is not None
        spare = (edges[index + 1] - edges[index] - stand.covered) / 2
        # Longer than its host it begins before it: the bar's end is the landmark then.
        made = replace(made, on=host_id if spare >= 0 else "A", at=round(max(spare if spare >= 0 else edges[index] + spare, 0.0), 1))
    return made


def _end_of(on: str | None, features: Sequence[Feature]) -> str:
    """The feature of the row that lies at an end; the last one where nothing was said."""
    return features[0].id if on == "A" else features[-1].id
