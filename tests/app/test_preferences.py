from pemlo.app.appearance import Appearance
from pemlo.app.preferences import Preferences


def test_a_colour_view_is_remembered_while_its_configuration_is_there(tmp_path):
    configuration = tmp_path / "studio.ocio"
    configuration.write_text("")
    Preferences().colour_view = (str(configuration), "screen", "graded")
    assert Preferences().colour_view == (str(configuration), "screen", "graded")
    configuration.unlink()
    assert Preferences().colour_view is None


def test_srgb_is_remembered_too(tmp_path):
    configuration = tmp_path / "studio.ocio"
    configuration.write_text("")
    Preferences().colour_view = (str(configuration), "screen", "graded")
    Preferences().colour_view = None
    assert Preferences().colour_view is None


def test_recent_projects_come_newest_first(tmp_path):
    paths = [tmp_path / f"{name}.pemlo" for name in "abc"]
    for path in paths:
        path.write_text("")
        Preferences().add_recent(path)
    Preferences().add_recent(paths[0])
    assert Preferences().recent() == [paths[0], paths[2], paths[1]]


def test_the_last_ten_projects_and_the_theme_are_remembered(tmp_path):
    for number in range(12):
        Preferences().add_recent(tmp_path / f"{number}.pemlo")
    assert [path.stem for path in Preferences().recent()] == [str(number) for number in range(11, 1, -1)]
    Preferences().appearance = Appearance(theme="Dim", text_percent=133, first_day=7)
    assert Preferences().appearance == Appearance(theme="Dim", text_percent=133, first_day=7)
