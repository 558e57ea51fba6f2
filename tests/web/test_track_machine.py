"""Whatever people do to a mouth track, in whatever order: every frame is covered once, what was decided stays to the
frame through readings, settings and moves of the sound, and undo brings back the identical track."""

import itertools

import pytest
from hypothesis import strategies as st
from hypothesis.stateful import invariant, rule

from tests.web.test_correcting import reads
from tests.web.undoable import UndoableMachine, run
from tinfork.core.exposure.verbs import Border
from tinfork.web.edits.models import Edit
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.staves.placing import placed_now
from tinfork.web.staves.seeing import track_of

DRAWINGS = ["open", "press", "purse", "rest", ""]
frames = st.integers(0, 70)
few = st.lists(frames, min_size=1, max_size=4)
drawings = st.sampled_from(DRAWINGS)


class TrackMachine(UndoableMachine):
    """One stave, as its scene is worked on."""

    def state(self):
        """The track as it is seen, and the frame its sound begins on."""
        return track_of(self.ferry.fresh), arrangement_of(self.ferry.scene).value.clips[0].start

    def decided(self):
        """What a person decided, by the frames of the sound."""
        placed = placed_now(self.ferry.fresh)
        start = arrangement_of(self.ferry.scene).value.clips[0].start
        return {frame - start: pin.drawing for pin in placed.pins.shown for frame in range(pin.frame, pin.end)}

    def do(self, work, keeps=False):
        """Do something: it is one step, or nothing at all."""
        before, kept = Edit.objects.filter(undone=False, superseded=False).count(), self.decided()
        work()
        if keeps:
            now = self.decided()
            assert {f: d for f, d in now.items() if f in kept} == {f: kept[f] for f in kept if f in now}
            assert len(now) >= min(len(kept), len([f for f in kept if 0 <= f < 60]))
        if Edit.objects.filter(undone=False, superseded=False).count() != before:
            self.happened()

    def edit(self, verb, **what):
        self.do(lambda: self.ferry.edit(self.ferry.owner, verb, **what))

    @rule(at=few, drawing=drawings)
    def show(self, at, drawing):
        self.edit("show", at=at, drawing=drawing)

    @rule(frame=frames, drawing=drawings, long=st.integers(1, 9))
    def lay(self, frame, drawing, long):
        self.edit("lay", frame=frame, pieces=[[0, long, drawing], [long + 1, 2, "open"]])

    @rule(frame=frames)
    def split(self, frame):
        self.edit("split", frame=frame)

    @rule(at=few, hold=st.booleans())
    def remove(self, at, hold):
        self.edit("remove", at=at, hold=hold)

    @rule(at=few, verb=st.sampled_from(["merge", "keep", "free", "rest"]))
    def many(self, at, verb):
        self.edit(verb, at=at)

    @rule(frame=frames, to=frames)
    def seam(self, frame, to):
        track = track_of(self.ferry.fresh)
        within = min(frame, track[-1].end - 1)  # The scene may have become shorter with its sound.
        begins = next(e.frame for e in track if e.frame <= within < e.end)
        self.edit("seam", frame=begins, to=to)

    @rule(frame=frames, first=frames, long=st.integers(1, 20))
    def span(self, frame, first, long):
        self.edit("span", frame=frame, first=first, frames=long)

    @rule(at=few, by=st.integers(-5, 5), border=st.sampled_from(list(Border)), words=st.booleans())
    def slide(self, at, by, border, words):
        self.edit("slide", at=at, by=by, border=border.value, words=words)

    @rule(frame=frames, long=st.integers(1, 20), times=st.integers(1, 3))
    def repeat(self, frame, long, times):
        self.edit("repeat", frame=frame, frames=long, times=times)

    @rule(frame=frames, long=st.integers(1, 30), drawing=st.sampled_from([None, "purse"]))
    def stretch(self, frame, long, drawing):
        self.edit("stretch", frame=frame, frames=long, drawing=drawing)

    @rule(frame=frames, long=st.integers(1, 30), hold=st.integers(1, 5), detail=st.floats(0, 1))
    def settings_of_a_range(self, frame, long, hold, detail):
        self.edit("settings of a range", frame=frame, frames=long, hold=hold, lead=1, detail=detail)

    @rule(hold=st.integers(1, 4), lead=st.integers(0, 3), detail=st.floats(0, 1), step=st.integers(1, 2))
    def settings(self, hold, lead, detail, step):
        self.do(
            lambda: self.ferry.edit(self.ferry.owner, "settings", hold=hold, lead=lead, detail=detail, step=step),
            keeps=True,
        )

    @rule()
    def read(self):
        self.do(lambda: reads(self.ferry), keeps=True)

    @rule(by=st.integers(-6, 6))
    def slide_the_sound(self, by):
        clip = arrangement_of(self.ferry.scene).value.clips[0]
        self.do(
            lambda: self.ferry.sound(self.ferry.owner, "slide", clips=[clip.id], by=by, ripple=False),
            keeps=by > 0,
        )

    @invariant()
    def every_frame_is_covered_once_and_what_was_decided_is_seen(self):
        if not self.history:
            return
        track = track_of(self.ferry.fresh)
        placed = placed_now(self.ferry.fresh)
        assert (track[0].frame, track[-1].end) == (0, placed.frames)
        assert all(one.end == other.frame for one, other in itertools.pairwise(track))
        own = {frame for span, _ in placed.stretches for frame in span}
        shown = {frame: e.drawing for e in track for frame in range(e.frame, e.end)}
        for pin in placed.pins.shown:
            for frame in range(pin.frame, pin.end):
                assert frame in own or shown[frame] == pin.drawing


@pytest.mark.slow
def test_any_sequence_of_verbs_readings_moves_undo_and_redo(ferry):
    run(TrackMachine, examples=4, steps=16, ferry=ferry)
