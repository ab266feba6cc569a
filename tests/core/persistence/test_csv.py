"""Tables of shots, trials and machines: round trips, every wrong cell named, nothing that a table program runs."""

import csv
import io

import pytest
from hypothesis import given
from hypothesis import strategies as st

from film import exact_trial, make_project, make_shot, well_timed
from pemlo.core.errors import FileError, InputError
from pemlo.core.persistence.csv_machines import read_machines, write_machines
from pemlo.core.persistence.csv_shots import common_size, movements, over, read_shots, without_delivery, write_shots
from pemlo.core.persistence.csv_trials import read_trials, write_trials
from pemlo.core.persistence.table import read_table_file, write_rows
from pemlo.core.project.machines import Machine
from pemlo.demo import demo_project


def problems(read, *args):
    with pytest.raises(InputError) as caught:
        read(*args)
    return [str(problem) for problem in caught.value.problems]


def test_the_demo_survives_its_own_tables():
    project = demo_project()
    delivery = project.delivery
    shots = without_delivery(read_shots(write_shots(project)), delivery.width, delivery.height, delivery.fps)
    assert shots == project.shots
    assert read_trials(write_trials(project), project) == project.trials
    assert read_machines(write_machines(project)) == tuple(m.replace(exceptions=()) for m in project.machines)


def test_columns_by_name_in_any_order_with_others_kept():
    shots = read_shots("Artist,LAST,samples,first,Shot,Min Samples\nAnn,20,64,1,010,\n")
    assert (shots[0].name, shots[0].first, shots[0].last) == ("010", 1, 20)
    assert shots[0].extra_columns == (("Artist", "Ann"),)
    again = write_shots(make_project(shots=shots))
    assert again.splitlines()[0].endswith(",Artist")
    assert read_shots(again)[0].extra_columns == (("Artist", "Ann"),)


@pytest.mark.parametrize("separator", [",", ";", "\t"])
def test_separators_and_decimal_commas(separator):
    text = separator.join(("shot", "first", "last", "samples", "noise_threshold")) + "\n"
    threshold = '"0,01"' if separator == "," else "0,01"
    text += separator.join(("010", "1", "20", "64", threshold)) + "\n"
    assert read_shots(text)[0].asked.noise_threshold == 0.01


def test_every_wrong_cell_is_named_at_once():
    text = (
        "shot,first,last,samples,moves\n010,1,x,64,\n,1,2,64,\n020,5,1,64,\n030,1,2,-3,wheels\n030,1,2,8,\n030,1,2,8,\n"
    )
    found = problems(read_shots, text)
    assert found == [
        "shots.csv, line 2, column last: “x” is not a number",
        "shots.csv, line 3, column shot: is empty",
        "shots.csv, line 5, column moves: “wheels” does not move; write some of camera, lights, objects, materials, simulation",
        "shots.csv, line 4: the last frame (1) is before the first (5)",
        "shots.csv, line 7, column shot: shot 030 stands in line 6 already",
    ]


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "is empty"),
        ("\n\n", "is empty"),
        ("shot,first,last\n010,1,2\n", "the column “samples” is missing"),
        ("shot,first,last,samples\n", "has no shots"),
        ("shot,first,last,samples,first\n010,1,2,3,1\n", "“first” appears twice"),
        ("shot,first,last,samples\n010,1,2,3,4,5\n", "has 6 cells, the header 4"),
        ("shot,first,last,samples\n010,1,2,nan\n", "“nan” is not a number"),
        ("shot,first,last,samples\n010,1,2,1e9\n", "must be 1000000 or less"),
        ("shot,first,last,samples\n010,1.5,2,8\n", "“1.5” is not a whole number"),
        ("shot,first,last,samples,width\n010,1,2,8,99\n", "both width and height"),
    ],
)
def test_wrong_tables_say_what_is_wrong(text, words):
    assert any(words in problem for problem in problems(read_shots, text))


def test_trials_take_what_people_say_and_what_was_asked():
    shot = make_shot("010", samples=512, min_samples=16, noise_threshold=0.01, denoise="frame")
    project = make_project(shots=(shot,))
    trial = read_trials("shot,frame,seconds\n010,5,4:02\n", project)[0]
    assert (trial.seconds, trial.samples, trial.noise_threshold, trial.denoise) == (242, 512, 0.01, "frame")
    trial = read_trials("shot,frame,seconds,samples,noise_threshold,denoise\n010,5,1h03,8,,\n", project)[0]
    assert (trial.samples, trial.noise_threshold, trial.min_samples, trial.denoise) == (8, None, None, "none")
    trial = read_trials("shot,frame,seconds,samples,resolution_percent\n010,5,7.7 s,8,50%\n", project)[0]
    assert (trial.samples, trial.min_samples, trial.resolution_percent) == (8, None, 50)
    staged = read_trials(
        "shot,frame,seconds,prepare_seconds,denoise_seconds,mark\n010,5,60,0:20,0,Good enough\n", project
    )[0]
    assert (staged.prepare_seconds, staged.denoise_seconds, staged.mark) == (20, 0, "good enough")


def test_wrong_trials_are_named():
    found = problems(
        read_trials,
        "shot,frame,seconds,mark,samples\n010,1,4:70,,\n999,1,5,,\n010,1,-5,,\n010,1,5,fine,\n010,,5,,\n010,1,5,,0\n",
        make_project(),
    )
    assert len(found) == 6
    assert "line 2, column seconds" in found[0]
    assert any("line 3, column shot: shot 999 is not in the brief" in problem for problem in found)
    assert any("line 7, column samples: must be 1 or more" in problem for problem in found)


def test_machines_and_their_units():
    text = 'machine,count,speed,memory_gib,hours,loss_percent\ndesk,6,1,64 GiB,"Mon-Fri 19-8, Sat-Sun all day",1%\n'
    desk = read_machines(text)[0]
    assert (desk.memory_gib, desk.hours, desk.loss_percent) == (64, "Mon-Fri 19:00-08:00, Sat-Sun all day", 1)
    wrong = "machine,count,hours,memory_gib\na,-1,,\nb,1,sometimes,\nc,1,,64 KB\na,2,,\na,2,,\n"
    found = problems(read_machines, wrong)
    assert len(found) == 4
    assert any("line 2, column count: must be 0 or more" in problem for problem in found)
    assert any("line 4, column memory_gib" in problem for problem in found)
    assert any("stands in line 5 already" in problem for problem in found)


def test_contention_is_written_once_it_was_measured():
    plain = make_project(machines=(Machine(name="a"),))
    measured = make_project(machines=(Machine(name="a", contention=0.2), Machine(name="b")))
    assert "contention" not in write_machines(plain)
    assert read_machines(write_machines(measured)) == measured.machines


@pytest.mark.parametrize(
    "cell", ["=1+1", "+A1", "-A1", "@SUM(A1)", "\t=1", "\r=1", "=cmd|' /C calc'!A0", "'=1", "''", "'@"]
)
def test_cells_that_would_be_run_are_not(cell):
    trial = exact_trial("010", 5, 16, note="x").replace(extra_columns=(("why", cell),))
    project = make_project(trials=(trial,))
    text = write_trials(project)
    for row in csv.reader(io.StringIO(text, newline="")):
        for written in row:
            assert written[:1] not in ("=", "+", "@", "\t", "\r")
            assert not written.startswith("-") or written[1:].replace(".", "").isdigit()
    assert read_trials(text, project)[0].extra_columns == (("why", cell.strip()),)


cells = st.text(st.characters(exclude_categories=["Cs"], exclude_characters="\0"), max_size=15).map(str.strip)


@given(st.lists(cells, min_size=1, max_size=4), st.lists(cells, min_size=1, max_size=4))
def test_any_extra_cells_survive(titles, values):
    named = {
        f"t{number}{title}".replace("\n", " ").replace("\r", " "): value
        for number, (title, value) in enumerate(zip(titles, values, strict=False))
    }
    shot = make_shot("010").replace(extra_columns=tuple(named.items()))
    project = make_project(shots=(shot,))
    again = read_shots(write_shots(project))[0].extra_columns
    assert [value for _, value in again] == list(named.values())


def test_negative_frames_stay_numbers():
    shot = make_shot("010").replace(first=-10)
    assert ",-10," in write_shots(make_project(shots=(shot,)))
    assert read_shots(write_shots(make_project(shots=(shot,))))[0].first == -10


def test_encodings(tmp_path):
    path = tmp_path / "shots.csv"
    text = "shot,first,last,samples\nAzénha,1,2,8\n"
    for encoding in ("utf-8", "utf-8-sig", "utf-16"):
        path.write_text(text, encoding=encoding)
        assert read_shots(read_table_file(path))[0].name == "Azénha"
    path.write_bytes(text.encode("latin-1"))
    with pytest.raises(FileError, match="not UTF-8 text \\(line 2\\)"):
        read_table_file(path)
    path.write_bytes(b"shot\0first")
    with pytest.raises(FileError, match="not a text file"):
        read_table_file(path)
    with pytest.raises(FileError, match="cannot be opened"):
        read_table_file(tmp_path / "none.csv")


def test_five_hundred_trials_and_two_hundred_shots():
    shots = tuple(make_shot(f"{n:04d}", 200) for n in range(200))
    project = make_project(shots=shots)
    trials = tuple(exact_trial(shots[n % 200].name, 1 + n % 200, 16 + n) for n in range(500))
    project = project.replace(trials=trials)
    assert read_trials(write_trials(project), project) == project.trials
    assert len(read_shots(write_shots(project))) == 200


def test_sizes_of_shots_become_the_delivery():
    text = (
        "shot,first,last,samples,width,height,fps\na,1,2,8,2048,1080,24\nb,1,2,8,2048,1080,24\nc,1,2,8,1920,1080,25\n"
    )
    shots = read_shots(text)
    assert common_size(shots) == (2048, 1080, 24)
    kept = without_delivery(shots, 2048, 1080, 24)
    assert [(s.width, s.fps) for s in kept] == [(None, None), (None, None), (1920, 25)]
    assert common_size(read_shots("shot,first,last,samples\na,1,2,8\n")) is None


def test_what_moves():
    assert movements("lights + camera") == ("camera", "lights")
    assert movements("nothing") == ()
    assert write_rows(["a"], [["b"]]) == "a\r\nb\r\n"


def measured(**fields):
    return well_timed()[0].replace(
        keep=("light", "prepare"), mean_samples=93.25, noise=0.0625, noise_shape=(-2.5, -1.25, 0.5), **fields
    )


def test_what_was_measured_of_trials_survives_the_table():
    trials = (measured(), measured(left_out="by hand"), measured(noise_threshold=0.05, min_samples=4), well_timed()[1])
    project = make_project(trials=trials)
    assert trials[0].keep == ("prepare", "light"), "in the order of the stages, each once"
    assert read_trials(write_trials(project), project.replace(trials=())) == project.trials


@pytest.mark.parametrize(
    ("column", "cell", "words"),
    [
        ("keep", "trace", "“trace” cannot be kept"), ("keep", "light, denoise", "“denoise” cannot be kept"),
        ("mean_samples", "0", "column mean_samples: must be more than 0"), ("mean_samples", "many", "“many” is not a number"),
        ("noise", "-1", "column noise: must be 0.0 or more"), ("noise_shape", "1 2 x", "“x” is not a number"),
        ("left_out", "x" * 201, "column left_out: is longer than 200 letters"),
    ],
)  # fmt: skip
def test_wrong_cells_of_what_was_measured_are_named(column, cell, words):
    project = make_project()
    with pytest.raises(InputError) as error:
        read_trials(f'shot,frame,seconds,{column}\n010,1,60,"{cell}"\n', project)
    assert words in str(error.value)
    assert "line 2" in str(error.value)


@pytest.mark.parametrize("cell", ["", "nothing", "Nothing"])
def test_a_column_of_kept_stages_may_say_nothing(cell):
    shots = (make_shot("010", keep=("light",)),)
    project = make_project(shots=shots)
    (trial,) = read_trials(f"shot,frame,seconds,keep\n010,1,60,{cell}\n", project)
    assert trial.keep == ()
    (asked,) = read_trials("shot,frame,seconds\n010,1,60\n", project)
    assert asked.keep == ("light",), "without the column the trial is as asked"
    assert read_shots(write_shots(project))[0].asked == shots[0].asked


@pytest.mark.parametrize(
    ("separator", "written", "samples"),
    [
        (",", ['"1,000"', "64"], 1000),
        (";", ["1.000", "64"], 1000),
        (";", ["1.000,0", "64"], 1000),
        ("\t", ["1,024", "1.5"], 1024),  # the other cell says that a point stands before decimals
        ("\t", ["1.024", "2,5"], 1024),
        (",", ['"12,345"', "64"], 12345),
    ],
)
def test_thousands_are_read_by_the_other_cells_and_the_separator(separator, written, samples):
    lines = [separator.join(("shot", "frame", "seconds", "samples", "mean_samples"))]
    lines += [separator.join(("010", "1", "60", written[0], "8")), separator.join(("010", "2", "60", "16", written[1]))]
    trial = read_trials("\n".join(lines), make_project())[0]
    assert trial.samples == samples


@pytest.mark.parametrize(
    ("separator", "column", "cell", "words"),
    [
        ("\t", "samples", "1,000", "“1,000” can be 1000 or 1; write it without the comma"),
        ("\t", "samples", "1.000", "“1.000” can be 1000 or 1; write it without the point"),
        (",", "samples", "1.000", "“1.000” can be 1000 or 1; write it without the point"),
        (";", "samples", "1,000", "“1,000” can be 1000 or 1; write it without the comma"),
        ("\t", "seconds", "1,234 s", "“1,234 s” can be 1234 or 1.234; write it without the comma"),
        (",", "samples", '"1,00,000"', "“1,00,000” is not a number"),
    ],
)
def test_a_number_that_may_be_two_is_refused(separator, column, cell, words):
    header = ["shot", "frame", "seconds", "samples"]
    cells = ["010", "1", "60", "16"]
    cells[header.index(column)] = cell
    text = "\n".join((separator.join(header), separator.join(cells)))
    assert problems(read_trials, text, make_project()) == [f"trials.csv, line 2, column {column}: {words}"]


@pytest.mark.parametrize(("cell", "seconds"), [('"1,234"', 1234), ("1.234", 1.234), ('"1,234.5 s"', 1234.5)])
def test_seconds_of_a_table_with_commas(cell, seconds):
    assert read_trials(f"shot,frame,seconds\n010,1,{cell}\n", make_project())[0].seconds == seconds


@pytest.mark.parametrize(
    ("cell", "why"), [("no", ""), ("0", ""), ("False", ""), ("", ""), ("yes", "left out"), ("cold disk", "cold disk")]
)
def test_no_leaves_nothing_out(cell, why):
    assert read_trials(f"shot,frame,seconds,left_out\n010,1,60,{cell}\n", make_project())[0].left_out == why


def test_a_quote_that_is_not_closed_is_named_and_swallows_nothing():
    text = 'shot,frame,seconds,note\n010,1,60,fine\n010,2,60,"hair\n010,3,60,x\n'
    (problem,) = problems(read_trials, text, make_project())
    assert problem.startswith("trials.csv, line 3: has a quotation mark that is not closed")


def test_line_breaks_in_cells_do_not_shift_the_lines():
    text = 'shot,frame,seconds,note\n010,1,60,"two\nlines"\n010,2,wrong,x\n'
    (problem,) = problems(read_trials, text, make_project())
    assert problem.startswith("trials.csv, line 4, column seconds")


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("shot,frame,seconds,samples\n010,1,60," + "9" * 400, "is too large"),
        ("shot,frame,seconds,samples\n010,1,60,1e400", "is too large"),
        ("shot,frame,seconds,note\n010,1,60," + "x" * 140_000, "line 2: has a cell of more than 131072 letters"),
        (
            "shot,frame,seconds," + ",".join(map(str, range(60_000))) + "\n010,1,60",
            "has 60003 columns; 500 are the most",
        ),
    ],
)
def test_huge_cells_and_tables_are_refused(text, words):
    assert any(words in problem for problem in problems(read_trials, text, make_project()))


def test_large_seeds_are_exact():
    seed = 2**63 - 1
    assert read_trials(f"shot,frame,seconds,seed\n010,1,60,{seed}\n", make_project())[0].seed == seed


@pytest.mark.parametrize("title", ["=why", "'=why", "＝why"])
def test_headers_stay_as_they_are_over_round_trips(title):
    trial = exact_trial("010", 5, 16).replace(extra_columns=((title, "x"),))
    project = make_project(trials=(trial,))
    for _ in range(3):
        text = write_trials(project)
        assert "," + title not in text.splitlines()[0].split("note")[1] or title.startswith("'"), "not as a formula"
        project = project.replace(trials=read_trials(text, project))
    assert project.trials[0].extra_columns == ((title, "x"),)


@pytest.mark.parametrize(("cell", "mark"), [("good", "good enough"), ("OK", "good enough"), ("bad", "not good enough"),
                                            ("no", "not good enough"), ("", "")])  # fmt: skip
def test_marks_as_people_write_them(cell, mark):
    project = make_project((make_shot("010"),))
    (trial,) = read_trials(f"shot,frame,seconds,mark\n010,1,20,{cell}\n", project)
    assert trial.mark == mark


def test_a_threshold_without_a_count_is_read_with_so_many_that_it_acts():
    (shot,) = read_shots("shot,frames,noise_threshold\n010,75,0.005\n")
    assert (shot.asked.noise_threshold, shot.asked.samples) == (0.005, 10_000)
    with pytest.raises(InputError, match="line 3, column samples: is empty, and there is no noise_threshold"):
        read_shots("shot,frames,samples,noise_threshold\n010,75,,0.005\n020,75,,\n")


def test_a_count_that_no_column_says_stays_where_a_threshold_was_there():
    before = make_shot("010", samples=512, noise_threshold=0.02)
    (shot,) = read_shots("shot,frames,noise_threshold\n010,75,0.005\n")
    assert over(before, shot).asked.samples == 512
    assert over(make_shot("010", samples=512), shot).asked.samples == 10_000
