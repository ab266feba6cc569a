"""A film of written pictures, judged in a real window, and what hands do there."""

from PySide6.QtTest import QTest
from scipy.ndimage import gaussian_filter

from exr import write_exr
from film import make_project, make_shot
from pemlo.core.persistence.document import read_project, write_project
from pemlo.core.project.edits import add_trials
from pemlo.core.project.trials import Trial
from photographs import gaussian, photograph
from window import open_window, run_action, settle

SIZE = (192, 128)


def trial(name, samples, **fields):
    return Trial(shot="010", frame=10, samples=samples, seconds=2.0 * samples, picture=name, **fields)


def choose(qtbot, window, picker, words):
    box = getattr(window.judge.row, picker)
    index = box.findText(f"frame 10, {words}")
    box.setCurrentIndex(index)
    box.activated.emit(index)
    settle(qtbot, window)


def press(window, key, qtbot):
    window.judge.canvas.setFocus()
    QTest.keyClick(window.judge.canvas, key)
    settle(qtbot, window)


def line(window, name):
    return next(one.text for one in window.judge.sheet.lines.shown if one.name == name)


def colour_at(canvas, x, y):
    return canvas.grab().toImage().pixelColor(x, y).getRgb()[:3]


def near(found, wanted, pixels, x, y):
    """The pixel itself, or one beside it: where a whole picture lies in a widget is a matter of half a pixel."""
    around = [
        tuple(int(pixels[y + dy, x + dx] >> shift & 0xFF) for shift in (16, 8, 0))
        for dy in (-1, 0, 1)
        for dx in (-1, 0, 1)
    ]
    return found in around


def pick_words(qtbot, window, box, words):
    box.setCurrentText(words)
    box.activated.emit(box.currentIndex())
    settle(qtbot, window)


def write_pictures(folder):
    """A ladder of one frame, one of it denoised with two seeds, and a short sequence."""
    clean = photograph("astronaut", SIZE)
    for samples in (4, 16, 256):
        write_exr(folder / f"n{samples}.exr", *gaussian(clean, 24 / samples**0.5, samples))
    for seed in (1, 2):
        soft = gaussian_filter(clean, (1.2, 1.2, 0)) + 0.2 * (gaussian(clean, 6, seed)[0] - clean)
        write_exr(folder / f"d{seed}.exr", soft)
    for frame in range(1, 7):
        if frame != 4:
            write_exr(folder / f"run.{frame:04d}.exr", gaussian(clean, 3, 100 + frame)[0])
    return folder


def judge_window(qtbot, pictures):
    """A window in Judge, on the film of these pictures."""
    project = make_project(
        shots=(make_shot("010", 48).replace(look="night"), make_shot("020", 50).replace(look="night"))
    )
    trials = [trial(f"n{samples}.exr", samples) for samples in (4, 16, 256)]
    trials += [trial(f"d{seed}.exr", 16, denoise="frame", seed=seed) for seed in (1, 2)]
    path = pictures / "film.pemlo"
    write_project(add_trials(project, trials), path)
    window = open_window(qtbot, read_project(path), path)
    run_action(window, "judge")
    settle(qtbot, window)
    return window
