"""From a stave's reading, settings and pins to its mouth track, by the core's planner."""

from tinfork.core.exposure import curves, plan
from tinfork.core.exposure.curves import Curves
from tinfork.core.exposure.track import Pin, clip_pins
from tinfork.core.mouths.chart import Chart, built_in

from .models import Stave


def chart_of(stave: Stave) -> Chart:
    """The drawings this stave's character speaks with."""
    return built_in()


def curves_of(stave: Stave) -> Curves:
    """The articulation of the stave's reading at the scene's frame rate. The stave must have a reading."""
    reading = stave.the_reading()
    if reading is None:
        raise ValueError("the stave has no reading yet")
    return curves.curves(reading.sounds(), reading.seconds, stave.scene.fps)


def replan(stave: Stave) -> None:
    """Set the stave's exposures anew from all that decides them. Nothing without a reading; does not save."""
    if stave.reading is None:
        stave.exposures = []
        return
    shape = curves_of(stave)
    pins: tuple[Pin, ...] = clip_pins(stave.the_pins(), len(shape.values))
    stave.exposures = [e.to_json() for e in plan.plan(shape, chart_of(stave), stave.the_settings(), pins)]
