"""Shows the film as it stands with what is known of it: verdict, tape, strip, the open stage. GUI thread."""

from typing import TYPE_CHECKING

from pemlo.gui.stages import TRIALS, say_watched

if TYPE_CHECKING:
    from pemlo.app.watcher import Watched
    from pemlo.gui.window import Window


class FilmShown:
    """What a window shows of its film; the same is not shown twice."""

    def __init__(self, window: "Window") -> None:
        self._window = window
        self._shown: tuple[object, object, object] = (None, None, None)

    def on_state(self) -> None:
        """Show what is known now, where it is not shown already."""
        if any(one is not other for one, other in zip(self._known_now(), self._shown, strict=True)):
            self.show_now()

    def _known_now(self) -> tuple[object, object, object]:
        state = self._window.state
        return state.film, state.answer, state.advice

    def show_now(self) -> None:
        """Show the film as it stands with what is known of it."""
        window = self._window
        self._shown = self._known_now()
        answer = window.answer
        if window.state.current:
            self.show_verdict()
        elif answer is not None and answer.first:
            self.show_verdict()
            window.tape.mark_stale()
        else:
            window.tape.mark_stale()
            window.strip.show_project(window.document.project, None if answer is None else answer.forecast)
        self.show(window.stack.currentIndex())
        if window.stack.has(TRIALS):
            window.trials.show_advice(window.state.advice)

    def show(self, number: int) -> None:
        """Bring a stage up to date; those that are not open are when they are opened."""
        self._window.stack.panel(number).show_project(self._window.document.project, self._window.answer)

    def on_looked(self, watched: "Watched") -> None:
        """Show what a look at the frames that came has found."""
        self._window.state.live_forecast = watched.live_forecast
        self.show_verdict()
        say_watched(self._window.rail, watched)

    def on_watching(self) -> None:
        """Let frames that are in say no more once nobody watches them."""
        watcher = self._window.watcher
        last = watcher.last if watcher.wanted else None
        self._window.state.live_forecast = None if last is None else last.live_forecast
        self.show_verdict()

    def show_verdict(self) -> None:
        """Show what becomes of the deadline: of the plan, and once frames are in, of what they tell."""
        window = self._window
        verdict = window.state.verdict
        if verdict is None:
            return
        window.verdict.show_verdict(verdict)
        window.tape.show_verdict(verdict)
        window.strip.show_project(window.document.project, None if window.answer is None else verdict.forecast)
        self.show_foot()

    def show_foot(self) -> None:
        """Say what the verdict rests on, and what can be undone: that is known only once a step has ended."""
        verdict = self._window.state.verdict
        if verdict is not None:
            undo = self._window.document.history.undo_text()
            self._window.background.rest(verdict.rests_on + (f"  ·  Undo: {undo}" if undo else ""))
