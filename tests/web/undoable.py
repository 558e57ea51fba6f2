"""Chains of what people do: every one is a step, or nothing; undo and redo bring back the identical scene."""

from hypothesis import HealthCheck, Phase, settings
from hypothesis.stateful import RuleBasedStateMachine, initialize, precondition, rule, run_state_machine_as_test

from tinfork.web.edits.models import Edit


class UndoableMachine(RuleBasedStateMachine):
    """A scene that is worked on. Whoever derives from it says by `state` what of it is seen."""

    ferry = None

    def __init__(self):
        super().__init__()
        self.history = []
        self.undone = []

    def state(self):
        raise NotImplementedError

    def happened(self):
        """A new step."""
        self.history.append(self.state())
        self.undone = []

    @initialize()
    def begin(self):
        while self.ferry.fresh.steps["undo"]:
            self.ferry.edit(self.ferry.owner, "undo")
        Edit.objects.all().delete()
        self.history, self.undone = [self.state()], []

    @precondition(lambda self: len(self.history) > 1)
    @rule()
    def undo(self):
        assert self.ferry.edit(self.ferry.owner, "undo").status_code == 200
        self.undone.append(self.history.pop())
        assert self.state() == self.history[-1]

    @precondition(lambda self: self.undone)
    @rule()
    def redo(self):
        assert self.ferry.edit(self.ferry.owner, "redo").status_code == 200
        self.history.append(self.undone.pop())
        assert self.state() == self.history[-1]


def run(machine, *, examples, steps, **given):
    """Try chains of a machine's rules on what is given to it."""
    run_state_machine_as_test(
        type("Machine", (machine,), given),
        settings=settings(
            max_examples=examples,
            stateful_step_count=steps,
            deadline=None,
            phases=(Phase.explicit, Phase.reuse, Phase.generate),
            suppress_health_check=list(HealthCheck),
        ),
    )
