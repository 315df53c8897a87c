"""How sure the figures are, shown by building the plan many times over: how many builds fall within what is said."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QProgressBar, QPushButton

from gwiazda.core.plan.model import Plan
from gwiazda.core.quantities import counted
from gwiazda.core.workbench.builds.coverage import Verdict, verify_builds
from gwiazda.desktop.longjob import LongJob, Progress
from gwiazda.desktop.panels.panel import PanelCard

BUILDS = 200
NAMES = {
    "section": "sections", "window": "windows", "evenness": "evenness", "dusk": "until which dusk", "point": "lamps seen", "tip": "fibre tips",
    "leak": "leaks", "draw": "current", "hours": "hours",
}  # fmt: skip
ABOUT = (
    f"{BUILDS} models are built from this plan in the computer, each with lamps, paint and hands as they stray, and read by a meter: about nine in "
    "ten should fall within what is said."
)


def words_of(verdict: Verdict) -> str:
    """A verdict as lines: of each kind how many in a hundred fell within, and how wide its band is."""
    off = {c.kind for c in verdict.off}
    lines = [
        f"{NAMES[c.kind].capitalize()}: <b>{c.inside * 100:.0f} in 100</b> within a band of {c.width * 100:.0f} %"
        + (", not nine in ten" if c.kind in off else "")
        for c in verdict.kinds
    ]
    return "<br>".join(lines) if lines else "Nothing in this plan has a band yet: light something first."


class BuildsCard(PanelCard):
    """Build it many times, with how far it is and a way to stop."""

    title = "How sure the figures are"
    extra = True

    @classmethod
    def speaks(cls, plan: Plan) -> bool:
        return bool(plan.lamps)

    def build(self) -> None:
        self.words = self.card.consequence()
        self.bar = QProgressBar()
        self.bar.setRange(0, 1000)
        self.bar.setTextVisible(False)
        self.bar.setAccessibleName("Builds done")
        self.card.outer.addWidget(self.bar)
        row = QHBoxLayout()
        row.setSpacing(4)
        self.begin = QPushButton(f"Build it {BUILDS} times")
        self.begin.setToolTip("Takes some seconds; the plan stays as it is, and you can go on meanwhile")
        self.begin.clicked.connect(self._begin)
        self.end = QPushButton("Stop")
        self.end.clicked.connect(self._end)
        row.addWidget(self.begin, 2)
        row.addWidget(self.end, 1)
        self.card.outer.addLayout(row)
        self.job: LongJob | None = None
        self.verdict: Verdict | None = None
        self._of: Plan | None = None
        self._show()

    @property
    def running(self) -> bool:
        return self.job is not None and self.job.running

    def _begin(self) -> None:
        plan, catalogue = self.document.plan, self.document.catalogue
        seed = self.document.clock().toordinal()

        def job(told: Progress) -> Verdict:
            return verify_builds(plan.kit.name, plan, catalogue, BUILDS, seed, told)

        self._of, self.verdict = plan, None
        made = self.job = LongJob("The builds", job, self.document)
        self._follow(made)
        self.bar.setValue(0)
        made.start()
        self._show()

    def _follow(self, job: LongJob) -> None:
        for signal, slot in (
            (job.advanced, self._advanced), (job.made, self._made), (job.stopped, self._stopped), (job.failed, self._failed)
        ):  # fmt: skip
            self.panel.follow(signal, slot)

    def _end(self) -> None:
        if self.job is not None:
            self.job.stop()
            self.end.setEnabled(False)

    def _advanced(self, share: float) -> None:
        self.bar.setValue(round(1000 * share))

    def _made(self, verdict: Verdict) -> None:
        self.verdict = verdict
        self.job = None
        self._show()

    def _stopped(self) -> None:
        self.job = None  # its thread may still be about to end
        self._show()

    def _failed(self, words: str) -> None:
        self.document.message_stop(words)
        self.job = None
        self._show()

    def refresh(self) -> None:
        self._show()

    def _show(self) -> None:
        running = self.running and self.verdict is None
        self.bar.setVisible(running)
        self.begin.setEnabled(not running)
        self.end.setVisible(running)
        self.end.setEnabled(running)
        if self.verdict is None or running:
            self.words.setText(ABOUT)
            return
        past = "" if self._of is self.document.plan else "<br>The plan has changed since."
        self.words.setText(f"{counted(self.verdict.builds, 'build')}:<br>{words_of(self.verdict)}{past}")

    def take_over(self, old: object) -> None:
        super().take_over(old)
        if isinstance(old, BuildsCard):
            self.verdict, self._of, job = old.verdict, old._of, old.job
            if job is not None and job.running:
                self.job = job
                self._follow(job)
            self._show()
