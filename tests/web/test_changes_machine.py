"""Whatever becomes another beneath a scene, in whatever order: what was set is seen or listed, and undo and redo bring
back the identical scene."""

import io

import numpy as np
import pytest
import soundfile
from django.core.files.uploadedfile import SimpleUploadedFile
from hypothesis import strategies as st
from hypothesis.stateful import invariant, rule

from tests.web.test_following import compared, state
from tests.web.undoable import UndoableMachine, run
from tinfork.core.errors import TinForkError
from tinfork.web.edits.models import Edit
from tinfork.web.following.clock import set_clock
from tinfork.web.following.leftovers import leftovers
from tinfork.web.following.taking import take
from tinfork.web.following.waiting import wait
from tinfork.web.productions.models import Scene
from tinfork.web.sheet.actions import write_note
from tinfork.web.sound.actions import bring_in
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.staves.placing import placed_now


class ChangesMachine(UndoableMachine):
    """One scene, as what lies beneath it changes."""

    sounds = ()

    @property
    def scene(self):
        return Scene.objects.select_related("production").get(pk=self.ferry.scene.pk)

    def state(self):
        return state(self.ferry), self.scene.rate, self.scene.start_frame

    def do(self, work):
        """Do something: it is one step, or nothing at all."""
        done = Edit.objects.filter(undone=False, superseded=False).values("step").distinct()
        before = done.count()
        try:
            work()
        except TinForkError:
            assert self.state() == self.history[-1]
            return
        if done.count() != before:
            assert done.count() == before + 1
            self.happened()

    @rule(frame=st.integers(0, 70), long=st.integers(1, 6), drawing=st.sampled_from(["open", "press", "purse"]))
    def pin(self, frame, long, drawing):
        self.do(lambda: self.ferry.edit(self.ferry.owner, "pin", frame=frame, frames=long, drawing=drawing))

    @rule(frame=st.integers(0, 70))
    def note(self, frame):
        self.do(lambda: write_note(self.ferry.owner, self.scene, frame, f"note {frame}"))

    @rule(rate=st.sampled_from(["12", "24", "25", "23.976", "30"]), first=st.sampled_from(["1", "1001"]))
    def clock(self, rate, first):
        scene = self.scene
        self.do(lambda: set_clock(self.ferry.owner, scene, rate, first, (scene.rate, scene.start_frame)))

    @rule(frame=st.integers(0, 60), frames=st.integers(-6, 9))
    def wait(self, frame, frames):
        self.do(lambda: wait(self.ferry.owner, self.scene, frame, frames, None))

    @rule(number=st.integers(0, 2), ends=st.booleans())
    def version(self, number, ends):
        if arrangement_of(self.scene).value.clips[0].sound == self.sounds[number].pk:
            return
        asked = compared(self.ferry, self.sounds[number])
        self.do(lambda: take(self.ferry.owner, asked, ends))

    @invariant()
    def everything_is_in_the_scene_or_on_the_list(self):
        stave = self.ferry.fresh
        there = {clip.source_id for clip in arrangement_of(self.scene).value.clips}
        listed = [one.thing for one in leftovers(self.scene)]
        assert all(pin.source_id in there or not pin.source_id or pin in listed for pin in stave.pin_values)
        track = self.ferry.track
        assert (track[0].frame, track[-1].end) == (0, placed_now(self.ferry.fresh).frames)


@pytest.mark.slow
def test_any_chain_of_changes_undo_and_redo(ferry, spoken):
    samples, rate = soundfile.read(io.BytesIO(spoken[0]), dtype="float32")
    gap, cut = np.zeros(rate // 2, np.float32), int(1.1 * rate)
    versions = [
        np.concatenate([samples[:cut], gap, samples[cut:]]),
        np.concatenate([gap, samples[: int(0.8 * rate)], samples[int(1.3 * rate) :]]),
    ]
    sounds = [ferry.scene.production.sounds.get()]
    for number, own in enumerate(versions):
        out = io.BytesIO()
        soundfile.write(out, own, rate, format="WAV")
        upload = SimpleUploadedFile(f"{number}.wav", out.getvalue())
        sounds.append(bring_in(ferry.owner, ferry.scene.production, upload))
    run(ChangesMachine, examples=3, steps=10, ferry=ferry, sounds=sounds)
