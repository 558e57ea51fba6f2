"""What a stave's character speaks with: the drawings that mouths are planned with, and those that are shown.

Timing follows from the drawings a track was planned with, kept in the stave; another chart shows other drawings at the
same frames, each the one nearest to what was planned, until somebody asks to plan anew with them.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Any

from django.db.models import Q, QuerySet
from msgspec import structs

from tinfork.core.errors import TrackError
from tinfork.core.exposure import habits
from tinfork.core.exposure.ranges import AnchoredMood
from tinfork.core.exposure.track import NOTHING, Exposure, Pin
from tinfork.core.mouths.chart import Chart, Drawing, built_in, shape_at
from tinfork.core.mouths.draw import styled
from tinfork.core.mouths.face import VIEW, Face
from tinfork.core.mouths.heads import mouth_style
from tinfork.core.mouths.hints import NEUTRAL
from tinfork.core.mouths.shapes import ARTICULATORS, LETTERS, SHAPES, Articulation
from tinfork.core.mouths.views import opposite
from tinfork.core.plain import plain
from tinfork.web.charts import actions as charts
from tinfork.web.charts.models import ChartDrawing, MouthChart, Worn, worn_by
from tinfork.web.charts.moods import in_mood, in_view, moods_of, views_of, views_of_chart
from tinfork.web.charts.showing import further_urls, small_url
from tinfork.web.faces.models import Href, face_of, own_href
from tinfork.web.productions.models import Character

from .models import Stave


def basis_chart(stave: Stave) -> Chart:
    """Return the drawings a stave's mouths are planned with; ours where nothing else was decided."""
    return _chart_of(stave.basis)


def _chart_of(basis: Sequence[Sequence[Any]]) -> Chart:
    return Chart(tuple(Drawing(name, tuple(place)) for name, place, _ in basis)) if basis else built_in()


@dataclass(frozen=True)
class NamedDrawing:
    """A drawing that can be seen: its name in tracks, its place, and the chart's drawing, None for one of ours; lent:
    the name of the chart it is from where that is not the one its character speaks with."""

    name: str
    place: Articulation
    drawing: ChartDrawing | None = None
    lent: str = ""

    @property
    def is_usual(self) -> bool:
        """Whether it may stand in for another: it is neutral, not kept for hands, and not lent."""
        return not self.lent and self.is_plain

    @property
    def formerly(self) -> list[str]:
        """What it was called in tracks before."""
        known = self.drawing.formerly if self.drawing else []
        return [*known, *(lent_name(self.lent, name) for name in known)] if self.lent else known

    @property
    def is_plain(self) -> bool:
        """Whether it is neutral, and not kept for hands."""
        return self.drawing is None or (self.drawing.mood == NEUTRAL and not self.drawing.special)

    @property
    def shape(self) -> str:
        """The shape it is nearest to."""
        return shape_at(self.place)


class Mouths:
    """The drawings a character speaks with, and the face they are shown on, as they are when this is made. basis: the
    drawings that mouths were planned with, as Stave.basis has it; worn: the chart and its mood, None for ours; lent:
    other charts whose drawings are shown somewhere."""

    def __init__(
        self,
        character: Character,
        basis: Sequence[Sequence[Any]],
        worn: Worn | None,
        lent: Iterable[MouthChart] = (),
    ) -> None:
        self.character = character
        self.basis = _chart_of(basis)
        chart = worn.chart if worn else None
        self.mood = worn.mood if worn else NEUTRAL
        self._heads = bool(chart and chart.is_heads)
        own = _drawings_of(chart) if chart else []
        ours = [NamedDrawing(d.name, d.place) for d in built_in().drawings]
        drawn = [NamedDrawing(d.called, d.articulation, d) for d in own if d.removed is None] or ours
        self._lent = {one.pk: _lent(one) for one in lent}
        self.shown = [*drawn, *(one for found in self._lent.values() for one in found)]
        self.names = {one.name: one for one in self.shown}
        self._by_pk = {one.drawing.pk: one.name for one in drawn if one.drawing}
        self._planned = {entry[0]: entry[2] for entry in basis}
        self._places = {one.name: one.place for one in ours}
        self._places |= {name: d.articulation for d in own for name in (*d.formerly, d.called)}
        self._places |= {d.name: d.place for d in self.basis.drawings} | {one.name: one.place for one in self.shown}
        self._now = {name: one.name for one in reversed(self.shown) for name in one.formerly}
        self._places = {name: self.names[now].place for name, now in self._now.items()} | self._places
        self._formerly = frozenset(self._now)
        self._shows_apart: dict[tuple[str, int] | None, bool] = {}
        usable = [one for one in self.shown if one.is_usual] or drawn
        self._usable = Chart(tuple(Drawing(one.name, one.place) for one in usable))
        drawings = [one.drawing for one in drawn if one.drawing]
        self._drawings = drawings
        self._moods: dict[str, dict[str, str]] = {}
        self._charts: dict[int, dict[str, str]] = {}
        self._views: dict[str, dict[str, tuple[str, bool]]] = {}
        self.moods = moods_of(drawings)
        self.views = views_of(drawings)

    @property
    def chart(self) -> Chart:
        """All drawings that can be seen, as the core's value."""
        return Chart(tuple(Drawing(one.name, one.place) for one in self.shown))

    @property
    def chart_to_choose(self) -> Chart:
        """All drawings that can be seen, those that stand in for others first."""
        usual_first = sorted(self.shown, key=lambda one: not one.is_usual)
        return Chart(tuple(Drawing(one.name, one.place) for one in usual_first))

    def planned_as(self, name: str) -> str:
        """Return the drawing of the basis that stands for one that was pinned."""
        names = {d.name for d in self.basis.drawings}
        if name in names or name == NOTHING:
            return name
        return self.basis.drawings[self.basis.stand_in(self.place_of(name))].name

    def seen_as(self, exposure: Exposure, ranged: AnchoredMood | None = None) -> str:
        """Return the drawing an exposure shows now: in the mood the character is in, or in the mood or chart of a
        range, unless a person chose it."""
        if exposure.drawing == NOTHING or (exposure.pinned and exposure.chosen):
            return self._chosen_seen_as(exposure.drawing, ranged)
        known = exposure.drawing in self._planned or not self.has(exposure.drawing)
        name = self._planned_seen_as(exposure.drawing) if known else self.pin_seen_as(exposure.drawing)
        return self._instead(ranged).get(name, name)

    def _chosen_seen_as(self, name: str, ranged: AnchoredMood | None) -> str:
        """What was chosen by hand as it is, and what stands in for one that is gone in the mood that holds."""
        now = self.pin_seen_as(name)
        return now if now == name or self.has(name) else self._instead(ranged).get(now, now)

    def shows_two_as_one(self, ranges: Iterable[AnchoredMood]) -> bool:
        """Return whether two drawings of the basis are shown as one: now, or in the mood or chart of a range."""
        planned = [Exposure(0, 1, drawing.name) for drawing in self.basis.drawings]
        kinds: dict[tuple[str, int] | None, AnchoredMood | None] = {None: None}
        kinds |= {(one.mood, one.chart): one for one in ranges}
        for key, ranged in kinds.items():
            if key not in self._shows_apart:
                self._shows_apart[key] = len({self.seen_as(one, ranged) for one in planned}) == len(planned)
            if not self._shows_apart[key]:
                return True
        return False

    def _instead(self, ranged: AnchoredMood | None) -> dict[str, str]:
        if ranged is None:
            return self.in_mood(self.mood)
        return self.in_chart(ranged.chart) if ranged.chart else self.in_mood(ranged.mood)

    def called(self, ranged: AnchoredMood) -> str:
        """Return what the mood or the chart of a range is called."""
        lent = self._lent.get(ranged.chart)
        return ranged.mood or (lent[0].lent if lent else "a chart that is gone")

    def chosen_as(self, name: str, ranged: AnchoredMood | None) -> str:
        """Return the drawing that stands for one that was chosen by hand, in the mood or chart that is now decided for
        it; one that is kept for hands stays."""
        name = self._now[name] if name in self._formerly else name
        instead, one = self._instead(ranged), self.names.get(name)
        if name in instead or one is None or one.is_usual or (one.drawing and one.drawing.special):
            return instead.get(name, name)
        if one.drawing and not one.lent and ranged and not ranged.chart and one.drawing.mood == ranged.mood:
            return name
        alike = self.names.get(one.drawing.name) if one.drawing and not one.lent else None
        neutral = alike.name if alike and alike.is_usual else self.by_shape(one.place)
        return instead.get(neutral, neutral)

    def lacks(self, name: str, ranged: AnchoredMood | None) -> bool:
        """Return whether nothing in the mood or chart of a range stands for a drawing that was chosen by hand, so that
        it stays as it is; not where none is asked for, nor for what is kept for hands or is of that mood."""
        name = self._now[name] if name in self._formerly else name
        one = self.names.get(name)
        if ranged is None or one is None or (one.drawing and one.drawing.special) or name in self._instead(ranged):
            return False
        of_it = one.lent == self.called(ranged) if ranged.chart else one.drawing and one.drawing.mood == ranged.mood
        return not of_it and self.chosen_as(name, ranged) not in self._instead(ranged).values()

    def in_chart(self, number: int) -> dict[str, str]:
        """Return what another chart shows for each drawing, by shape; nothing where that is not lent."""
        if number not in self._charts:
            self._charts[number] = self._by_shape_in(self._lent.get(number, []))
        return self._charts[number]

    def _by_shape_in(self, lent: Sequence[NamedDrawing]) -> dict[str, str]:
        if not lent:
            return {}
        usable = Chart(tuple(Drawing(one.name, one.place) for one in [o for o in lent if o.is_plain] or lent))
        return {one.name: usable.drawings[usable.stand_in(one.place)].name for one in self.shown}

    def in_mood(self, mood: str) -> dict[str, str]:
        """Return what is shown in a mood for each neutral drawing that has something else in it."""
        if mood not in self._moods:
            self._moods[mood] = in_mood(self._drawings, mood)
        return self._moods[mood]

    def in_view(self, name: str, view: str) -> tuple[str, bool]:
        """Return what is shown in a view for a drawing that is seen, and whether mirrored."""
        if view not in self._views:
            self._views[view] = in_view(self._drawings, view) if self.views else {}
        return self._views[view].get(name, (name, False))

    def _planned_seen_as(self, name: str) -> str:
        own = self._by_pk.get(self._planned.get(name, 0))
        if own is not None:
            return own
        return name if not self._by_pk and name in self.names else self._nearest(name)

    def pin_seen_as(self, name: str) -> str:
        """Return the drawing a pin shows now: its own, or what stands in for one that is gone."""
        if name in self.names or name == NOTHING:
            return name
        if name not in self._now:
            self._now[name] = self._nearest(name)
        return self._now[name]

    def has(self, name: str) -> bool:
        """Return whether there is a drawing of a name, or one that was called so."""
        return name in self.names or name in self._formerly or name == NOTHING

    def check(self, name: str) -> None:
        """TrackError where no drawing of a name can be chosen."""
        if name not in self.names and name != NOTHING:
            raise TrackError(f"The chart has no drawing “{name}”.")

    @property
    def rest(self) -> str:
        """The drawing of a mouth at rest, as a track has it."""
        return self.basis.drawings[self.basis.nearest(SHAPES["rest"].place)].name

    def by_shape(self, place: Articulation) -> str:
        """Return the drawing that stands for one at a place, say one of another character's."""
        return self._usable.drawings[self._usable.stand_in(place)].name

    def _nearest(self, name: str) -> str:
        return self.by_shape(self.place_of(name))

    def place_of(self, name: str) -> Articulation:
        """Return where a drawing lies, in articulator space; one of a chart that is worn no more lies where it lay
        there."""
        if name not in self._places:
            self._places[name] = self._place_elsewhere(name) or SHAPES["rest"].place
        return self._places[name]

    def _place_elsewhere(self, name: str) -> Articulation | None:
        """Where a drawing of a name lies in another chart that the character could have spoken with, the newest
        first."""
        production = self.character.production_id
        near = Q(chart__production=production) | Q(chart__owner__membership__production=production)
        alike = ChartDrawing.everything.filter(near, name__in=(name, name.split(" · ", 1)[-1]))
        newest = alike.order_by("-chart", "-pk").defer(*ChartDrawing.LARGE)
        return next((one.articulation for one in newest if one.called == name), None)

    def in_basis(self, exposures: Iterable[Exposure]) -> list[Exposure]:
        """Return exposures with the names of the basis, as the planner knows them."""
        return [replace(e, drawing=self.planned_as(e.drawing)) if e.pinned else e for e in exposures]

    def pins_in_basis(self, pins: Iterable[Pin]) -> list[Pin]:
        """Return pins with the names of the basis."""
        return [structs.replace(pin, drawing=self.planned_as(pin.drawing)) for pin in pins]

    def markup(self, one: NamedDrawing, ident: str, href: str = "") -> str:
        """Return a drawing on its anchor, as SVG. href: where its picture is, when it is not asked of the server."""
        if one.drawing is None:
            return styled(one.place, ident, mouth_style(self.character.look))
        return one.drawing.markup(href or small_url(one.drawing))

    def face(self, href: Href = own_href) -> Face:
        """Return what the drawings are shown on: nothing where they are whole heads. href: where a layer's pictures
        are."""
        return _turning(Face() if self._heads else face_of(self.character, href), self.views)

    def document(self, prefix: str) -> dict[str, Any]:
        """Return the face and the drawings as a page shows them, with what the ribbon needs of each. prefix: what makes
        the ids in them unique."""
        face, shut = self.face(), set(self.chart.shut())
        return {
            "view": VIEW,
            **face_document(face),
            "mood": self.mood,
            "style": None if any(one.drawing for one in self.shown) else plain(mouth_style(self.character.look)),
            "drawings": [
                {
                    "name": one.name,
                    "label": one.drawing.name if one.drawing else one.name,
                    "mood": one.lent or (one.drawing.mood if one.drawing else NEUTRAL),
                    "lent": bool(one.lent),
                    "special": bool(one.drawing and one.drawing.special),
                    "shut": row in shut,
                    "key": one.drawing.key if one.drawing else "",
                    "shape": one.shape,
                    "meaning": SHAPES[one.shape].meaning,
                    "letters": LETTERS[one.shape],
                    "svg": self.markup(one, f"{prefix}-d{row}"),
                    **self._seen_in_views(one.name, face),
                    **_moving(one),
                    **dict(zip(ARTICULATORS, one.place, strict=True)),
                }
                for row, one in enumerate(self.shown)
            ],
        }

    def _seen_in_views(self, name: str, face: Face) -> dict[str, Any]:
        """What is shown for a drawing in each view of a face in which that is another."""
        seen = {view: self.in_view(name, view) for view in face.views}
        others = {view: list(shown) for view, shown in seen.items() if shown != (name, False)}
        return {"views": others} if others else {}


def _moving(one: NamedDrawing) -> dict[str, Any]:
    """The further pictures of a drawing that moves, and how."""
    if one.drawing is None or not one.drawing.also:
        return {}
    svgs = [one.drawing.markup(url) for url in further_urls(one.drawing)]
    return {"moving": {"svgs": svgs, "each": one.drawing.each, "once": one.drawing.once}}


def face_shown(character: Character) -> Face:
    """Return what a character's drawings are shown on."""
    worn = worn_by(character)
    face = Face() if worn and worn.chart.is_heads else face_of(character)
    return _turning(face, views_of_chart(worn.chart) if worn else ())


def _turning(face: Face, views: Iterable[str]) -> Face:
    """A face that can show the views its mouths are drawn in, and those that are their mirror images unless it is drawn
    in views itself."""
    drawn = any(piece.view for piece in face.pieces)
    return face.with_views({*views, *(() if drawn else map(opposite, views))})


def face_document(face: Face) -> dict[str, Any]:
    """Return a face as a page shows it: where its mouth lies, its parts, and what is drawn of them, the lowest
    first."""
    return {
        "mouth": face.mouth_transform,
        "parts": [[p.name, p.x, p.y, p.on, p.rest, list(p.drawings), p.role] for p in face.parts],
        "pieces": [
            [
                p.part,
                p.drawing,
                p.markup,
                [p.relief.x, p.relief.z, p.relief.way] if p.relief else None,
                p.view,
                [p.turn.moving.pictures, p.turn.moving.each, p.turn.moving.once, p.turn.picture] if p.turn else None,
            ]
            for p in face.pieces
        ],
        "lies": face.lies,
        "faces": face.angles,
        "drawn": {view: face.drawn_view(view) for view in face.views},
    }


def _drawings_of(chart: MouthChart) -> list[ChartDrawing]:
    """The drawings of a chart, with those that are gone but have a name somewhere."""
    return list(ChartDrawing.everything.filter(chart=chart).order_by("number", "pk").defer(*ChartDrawing.LARGE))


def _lent(chart: MouthChart) -> list[NamedDrawing]:
    here = (d for d in _drawings_of(chart) if d.removed is None)
    return [NamedDrawing(lent_name(chart.name, d.called), d.articulation, d, chart.name) for d in here]


def lent_name(chart: str, drawing: str) -> str:
    """Return what a chart's drawing is called in the tracks of those who do not speak with the chart."""
    return f"{chart} · {drawing}"


def charts_to_lend(character: Character) -> QuerySet[MouthChart]:
    """Return the charts that can be shown over a range beside the one a character speaks with: those that somebody of
    their production speaks with or that are the production's, if they show the same of a face."""
    worn = worn_by(character)
    near = Q(production=character.production_id) | Q(worn_by__character__production=character.production_id)
    part = worn.chart.part if worn else MouthChart.Of.MOUTH
    found = MouthChart.objects.filter(near, part=part, drawings__removed=None, drawings__isnull=False).distinct()
    return found.exclude(pk=worn.chart_id) if worn else found


def mouths_of(stave: Stave) -> Mouths:
    """Return the drawings of a stave, found once for each object of it, basis and moods."""
    known = vars(stave).get("_mouths")
    if known is None or known[0] is not stave.basis or known[1] is not stave.moods:
        known = vars(stave)["_mouths"] = (stave.basis, stave.moods, mouths_with(stave, stave.mood_values))
    found: Mouths = known[2]
    return found


def mouths_with(stave: Stave, moods: Iterable[AnchoredMood]) -> Mouths:
    """Return the drawings of a stave if it had some moods."""
    numbers = {one.chart for one in moods if one.chart}
    lent = charts_to_lend(stave.character).filter(pk__in=numbers) if numbers else ()
    return Mouths(stave.character, stave.basis, worn_by(stave.character), lent)


def basis_now(character: Character) -> list[list[Any]]:
    """Return what a stave would be planned with if it were new: names, places and numbers of the drawings; empty for
    ours."""
    worn = worn_by(character)
    return basis_of(worn.chart) if worn else []


def rules_now(character: Character) -> list[list[Any]]:
    """Return the rules a character keeps, as Stave.rules has them."""
    return [[rule.ipa, rule.drawing, rule.place] for rule in character.sound_rules.all()]


def aims_of(stave: Stave) -> dict[str, Articulation]:
    """Return for each sound that has a rule in a stave where its mouth is to be."""
    return habits.aims_of(stave.rules, basis_chart(stave)) if stave.rules else {}


def other_plan(stave: Stave) -> bool:
    """Return whether a stave was planned with other drawings or rules than its character has now."""
    return basis_now(stave.character) != stave.basis or rules_now(stave.character) != sorted(stave.rules)


def basis_of(chart: MouthChart) -> list[list[Any]]:
    """Return what is planned with when a chart is worn: names, places and numbers of its drawings."""
    return [[d.called, list(d.place), d.pk] for d in chart.usable()]


def drawings_gone(stave: Stave, pins: Sequence[Pin]) -> list[dict[str, Any]]:
    """Return the drawings of pins that are no longer there, each with its first pin, how often, and what stands in for
    it."""
    own = mouths_of(stave)
    gone: dict[str, list[Pin]] = {}
    for pin in pins:
        if not own.has(pin.drawing):
            gone.setdefault(pin.drawing, []).append(pin)
    return [
        {
            "drawing": name,
            "frame": found[0].frame,
            "frames": found[0].frames,
            "why": f"its drawing is not in the chart; {own.pin_seen_as(name)} stands in"
            + (f", here and in {len(found) - 1} more" if len(found) > 1 else ""),
        }
        for name, found in gone.items()
    ]


def _uses(drawing: ChartDrawing) -> list[str]:
    """Where a drawing was chosen by hand, in words."""
    own = Stave.objects.filter(character__worn__chart=drawing.chart, scene__removed=None)
    found = []
    for stave in own.filter(pins__contains=[{"drawing": drawing.called}]).select_related("scene", "character"):
        count = sum(pin["drawing"] == drawing.called for pin in stave.pins)
        found.append(f"“{stave.scene}” for {stave.character}{f', {count} times' if count > 1 else ''}")
    return found


charts.ask_before_removal(_uses)
