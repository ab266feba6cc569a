"""Columns by the names that people give them; what was not used is said. Common practice, no source, for the names."""

import pytest

from film import make_project, make_shot
from pemlo.core.errors import InputError
from pemlo.core.persistence.column_names import matched, unused
from pemlo.core.persistence.csv_launch import read_launch
from pemlo.core.persistence.csv_machines import read_machines
from pemlo.core.persistence.csv_shots import READ as SHOTS
from pemlo.core.persistence.csv_shots import read_shots
from pemlo.core.persistence.csv_trials import READ as TRIALS
from pemlo.core.persistence.csv_trials import read_trials
from pemlo.core.persistence.table import first_cells, missing_columns, titles_of, unused_titles

FILM = make_project(shots=(make_shot("010", 250), make_shot("020", 50)))


def test_shots_as_people_head_them():
    (shot,) = read_shots("Name\tFrom\tTo\tspp\tRes\tDenoise\tArtist\n010\t1\t250\t3x3\t1280x720\tyes\tus\n")
    assert (shot.name, shot.first, shot.last, shot.width, shot.height) == ("010", 1, 250, 1280, 720)
    assert (shot.asked.samples, shot.asked.denoise) == (9, "denoised")
    assert shot.extra_columns == (("Artist", "us"),)
    (other,) = read_shots("shot,frames,samples,size,denoising\n020,1-99x2,64,50 %,no\n")
    assert (other.first, other.last, other.step, other.asked.resolution_percent) == (1, 99, 2, 50)
    assert other.asked.denoise == "none"


def test_trials_as_people_head_them():
    text = "shot;frame no;spp;res;render time;denoiser;limit;engine\n010;12;128;50%;4:02;off;1:00;quick 2\n"
    (trial,) = read_trials(text, FILM)
    assert (trial.frame, trial.samples, trial.resolution_percent, trial.seconds) == (12, 128, 50, 242)
    assert (trial.denoise, trial.most_seconds, trial.way, trial.way_value) == ("none", 60, "quick", 2)
    (sized,) = read_trials("shot,frame,seconds,resolution\n010,1,9,960x540\n", FILM)
    assert (sized.width, sized.height) == (960, 540)


def test_a_launch_takes_the_columns_of_shots():
    """`launch.csv` with width, height and resolution_percent was “ready” at half the size."""
    text = "shot,first,last,width,height,resolution_percent,min_samples,time limit,split,switches,keep\n"
    (row,) = read_launch(f"{text}010,1,250,1920,1080,50,16,1:00,4 1 1,fog,nothing\n", FILM)
    assert (row.width, row.height, row.percent) == (1920, 1080, 50)
    assert (row.min_samples, row.most_seconds, row.split, row.switches, row.keep) == (16, 60, (4, 1, 1), ("fog",), ())
    (ranged,) = read_launch("shot,frames,size\n010,1-250,50 %\n", FILM)
    assert (ranged.first, ranged.last, ranged.percent, ranged.width) == (1, 250, 50, None)


def test_machines_as_people_head_them():
    (machine,) = read_machines("Host,machines,RAM,price\nblade,4,64,1.5\n")
    assert (machine.name, machine.count, machine.memory_gib, machine.price_per_hour) == ("blade", 4, 64, 1.5)


def test_the_own_spelling_wins_over_other_names():
    names = ["samples", "mark", "noise_threshold", "min_samples"]
    assert matched(["passes", "samples"], names) == ("mark", "samples")
    assert matched(["spp", "samples"], names) == ("spp", "samples"), "never two of one"
    assert matched(["Min-SPP", "least"], names) == ("min_samples", "least")


def test_what_a_person_said_is_heard_and_what_is_not_used_is_said():
    text = "shot,first,last,samples,Qualität,Kamera\n010,1,9,64,fein,A\n"
    assert unused_titles(text, SHOTS) == ("Qualität", "Kamera")
    assert unused_titles(text, SHOTS, {"qualität": "look"}) == ("Kamera",)
    assert read_shots(text, said={"qualität": "look"})[0].look == "fein"
    assert unused(["off fit", "", "on screen", "x"], []) == ("x",), "what Pemlo works out itself is not said"
    assert titles_of(text)[-2:] == ("Qualität", "Kamera")
    assert first_cells(text, 3) == (("010", "1", "9", "64", "fein", "A"),)


def test_what_is_missing_is_said_with_what_there_is():
    text = "Bild,Zeit\n1,4:02\n"
    assert missing_columns(text, TRIALS) == ("shot", "frame", "seconds")
    with pytest.raises(InputError, match=r"column “frame” is missing; there are: bild, zeit"):
        read_trials(text, FILM)
    assert missing_columns("shot,frames,samples\n", SHOTS) == (), "a range says first and last"


@pytest.mark.parametrize("title", ["x" * 100_000, "\x1b[31m", "spp\x00", "\u202espp", " ", "__", "-"])
def test_no_title_is_too_odd_to_be_read(title):
    assert len(matched([title, "shot"], ["shot"])) == 2
    read_shots(f'shot,first,last,samples,"{title.replace(chr(0), "")}"\n010,1,2,3,z\n')


def test_a_dash_is_nothing_and_a_share_of_noise_is_a_share():
    (trial,) = read_trials("shot\tframe\tseconds\tnoise\tmachine\tthreshold\n010\t1\t9\t0.8 %\t–\t–\n", FILM)
    assert trial.noise == pytest.approx(0.008)
    assert (trial.machine, trial.noise_threshold) == ("", None)
    (plain,) = read_trials("shot,frame,seconds,noise\n010,1,9,0.008\n", FILM)
    assert plain.noise == pytest.approx(0.008)
