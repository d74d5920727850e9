"""One table of commands feeds the menus, the page of keys and the command finder."""

from collections.abc import Callable, Mapping

from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QInputDialog, QMenu, QMenuBar

from glintor.desktop.command import ActionSpec, Commanded
from glintor.desktop.finder import Finder, keys_page
from glintor.project.log import LOG_KEYS, WHATS, What

_DESK_NAMES = ("Place", "Expose", "Record", "Offload", "Reframe", "Export")


def _nudged(name: str, by: float) -> Callable[[Commanded], object]:
    return lambda w: w.reframe.work.nudge(name, by)


def _shown(number: int) -> Callable[[Commanded], object]:
    return lambda w: w.show_desk(number)


def _logged(what: What) -> Callable[[Commanded], object]:
    return lambda w: w.record.log.note() if what == "note" else w.record.log.log(what)


def _rated(stars: int) -> Callable[[Commanded], object]:
    return lambda w: w.record.log.rate(stars)


def _starred(stars: int) -> Callable[[Commanded], object]:
    return lambda w: w.offload.rate(stars)


def _ask_look(window: Commanded) -> None:
    name, given = QInputDialog.getText(window.parent_widget, "Keep this look", "Its name:")
    if given:
        window.reframe.work.keep_look(name)


ACTIONS = (
    ActionSpec("file.new", "Day", "Begin a new day…", "Ctrl+Shift+N", lambda w: w.file_work.ask_new()),
    ActionSpec("file.open", "Day", "Open a day…", "Ctrl+O", lambda w: w.file_work.ask_open()),
    ActionSpec("file.demo", "Day", "Open the demo day", "", lambda w: w.file_work.open_demo()),
    ActionSpec("file.take_in", "Day", "Bring recordings in…", "Ctrl+I", lambda w: w.clip_work.ask()),
    ActionSpec("site.edit", "Day", "Site, day and weather…", "Ctrl+T", lambda w: w.day_work.edit_site()),
    ActionSpec("kit.edit", "Day", "Kit…", "Ctrl+K", lambda w: w.day_work.edit_kit()),
    ActionSpec("day.plan", "Day", "Put the shots in the order of their light", "Ctrl+L", lambda w: w.day_work.plan()),
    ActionSpec(
        "day.plan_way", "Day", "Put the shots in the order of the way", "Ctrl+Shift+L", lambda w: w.day_work.plan("way")
    ),
    ActionSpec("day.carry", "Day", "Take the day along…", "Ctrl+Y", lambda w: w.day_work.ask_carry()),
    ActionSpec("file.save", "Day", "Save now", "Ctrl+S", lambda w: w.document.save()),
    ActionSpec(
        "file.take_over", "Day", "Take this day over from the other window", "", lambda w: w.file_work.take_over()
    ),
    ActionSpec("file.close", "Day", "Close", "Ctrl+Q", lambda w: w.close()),
    ActionSpec("edit.undo", "Edit", "Undo", "Ctrl+Z", lambda w: w.document.undo()),
    ActionSpec("edit.redo", "Edit", "Redo", "Ctrl+Shift+Z", lambda w: w.document.redo()),
    ActionSpec("shot.new", "Shot", "New shot", "Ctrl+N", lambda w: w.shot_work.new()),
    ActionSpec("shot.double", "Shot", "Duplicate shot", "Ctrl+D", lambda w: w.shot_work.double()),
    ActionSpec("shot.rename", "Shot", "Rename shot…", "Shift+F2", lambda w: w.shot_work.rename()),
    ActionSpec("shot.sheet", "Shot", "This shot…", "Ctrl+J", lambda w: w.place.open_shot()),
    ActionSpec("shot.wish", "Shot", "Wish for a look…", "Ctrl+W", lambda w: w.place.open_wish()),
    ActionSpec("shot.up", "Shot", "Move shot up", "Ctrl+Up", lambda w: w.shot_work.shift(-1)),
    ActionSpec("shot.down", "Shot", "Move shot down", "Ctrl+Down", lambda w: w.shot_work.shift(1)),
    ActionSpec("shot.delete", "Shot", "Remove shot", "", lambda w: w.shot_work.delete()),
    ActionSpec("key.set", "Path", "Set a keyframe", "Return", lambda w: w.reframe.work.set_key(), "reframe"),
    ActionSpec("key.delete", "Path", "Remove the keyframe", "Del", lambda w: w.reframe.key_work.delete(), "reframe"),
    ActionSpec("key.copy", "Path", "Copy the keyframe", "Ctrl+C", lambda w: w.reframe.key_work.copy(), "reframe"),
    ActionSpec(
        "key.paste", "Path", "Set the copied view here", "Ctrl+V", lambda w: w.reframe.key_work.paste(), "reframe"
    ),
    ActionSpec("key.before", "Path", "Previous keyframe", ",", lambda w: w.reframe.work.step_key(-1), "reframe"),
    ActionSpec("key.after", "Path", "Next keyframe", ".", lambda w: w.reframe.work.step_key(1), "reframe"),
    *(
        ActionSpec(name, "Path", words, keys, do, "reframe")
        for name, words, keys, do in (
            ("key.bar", "The keyframe…", "K", lambda w: w.reframe.board.turn_bar("key")),
            ("hold.bar", "Hold the view on…", "F", lambda w: w.reframe.board.turn_bar("hold")),
            ("path.propose", "Paths to begin from…", "Q", lambda w: w.reframe.proposing.open()),
            ("trial.take", "Take what is tried", "Shift+Return", lambda w: w.reframe.trial.take()),
            ("beside.bar", "Several views in one picture…", "I", lambda w: w.reframe.board.turn_bar("beside")),
            ("cut.camera", "Go over to the other camera here", "O", lambda w: w.reframe.beside_work.other_camera()),
            ("move.bar", "Ready moves…", "V", lambda w: w.reframe.open_moves()),
            ("move.dissolve", "Dissolve the move into keyframes", "", lambda w: w.reframe.move_work.dissolve()),
            ("move.remove", "Remove the move", "", lambda w: w.reframe.move_work.remove()),
            ("look.own", "Keep this look…", "", _ask_look),
            ("look.forget", "Forget this look", "", lambda w: w.reframe.work.forget_look()),
            ("path.fly", "Fly from here, or end it", "Y", lambda w: w.reframe.flying.turn()),
            ("pace.bar", "Speed…", "P", lambda w: w.reframe.board.turn_bar("pace")),
            ("key.earlier", "Keyframe one frame earlier", "Alt+Left", lambda w: w.reframe.key_work.shift(-1)),
            ("key.later", "Keyframe one frame later", "Alt+Right", lambda w: w.reframe.key_work.shift(1)),
            ("key.all", "Choose all keyframes of the part", "Ctrl+A", lambda w: w.reframe.key_work.choose_part()),
            ("hold.subject", "Hold on to the subject, or let it go", "Shift+F", lambda w: w.reframe.hold_work.turn()),
            ("hold.again", "Point at the point again", "", lambda w: w.reframe.hold_work.point_again()),
            ("path.compare", "Compare with another path", "C", lambda w: w.reframe.key_work.compare_next()),
            ("path.bearings", "Tell bearings another way", "B", lambda w: w.reframe.tell_bearings()),
            ("path.alone", "Edit this shape alone, or all", "A", lambda w: w.reframe.board.alone.click()),
            ("path.shared", "This shape as all have it", "Shift+A", lambda w: w.reframe.work.take_back_own()),
            ("course.closer", "Look closer at the course", "Ctrl++", lambda w: w.reframe.course.look_closer(1.6)),
            ("course.wider", "See more of the course", "Ctrl+-", lambda w: w.reframe.course.look_closer(1 / 1.6)),
            ("course.back", "The course before this", "Ctrl+Left", lambda w: w.reframe.course.look_along(-0.5)),
            ("course.ahead", "The course after this", "Ctrl+Right", lambda w: w.reframe.course.look_along(0.5)),
        )
    ),
    ActionSpec("cut.in", "Path", "Begin the cut here", "[", lambda w: w.reframe.work.set_in(), "reframe"),
    ActionSpec("cut.out", "Path", "End the cut here", "]", lambda w: w.reframe.work.set_out(), "reframe"),
    ActionSpec(
        "part.in",
        "Path",
        "Begin the part for another speed here",
        "Shift+[",
        lambda w: w.reframe.work.begin_part(),
        "reframe",
    ),
    ActionSpec(
        "part.out",
        "Path",
        "End the part for another speed here",
        "Shift+]",
        lambda w: w.reframe.work.end_part(),
        "reframe",
    ),
    ActionSpec(
        "part.hold", "Path", "Hold the picture here, or let it go", "H", lambda w: w.reframe.work.hold(), "reframe"
    ),
    ActionSpec(
        "part.move",
        "Path",
        "Move the view in the freeze, or keep it still",
        "Shift+H",
        lambda w: w.reframe.work.move_in_freeze(),
        "reframe",
    ),
    ActionSpec(
        "path.still",
        "Path",
        "Save this frame as a picture…",
        "Ctrl+Shift+S",
        lambda w: w.clip_work.ask_still(),
        "reframe",
    ),
    ActionSpec(
        "path.sphere",
        "Path",
        "Save the whole sphere as a picture…",
        "",
        lambda w: w.clip_work.ask_sphere_still(),
        "reframe",
    ),
    ActionSpec("path.trail", "Path", "Save a trail of the subject…", "", lambda w: w.clip_work.ask_trail(), "reframe"),
    ActionSpec("path.out", "Path", "Save the path as a file…", "", lambda w: w.clip_work.ask_path_out(), "reframe"),
    ActionSpec("path.in", "Path", "Bring a path in…", "", lambda w: w.clip_work.ask_path_in(), "reframe"),
    ActionSpec("cut.new", "Path", "New cut of this take", "", lambda w: w.reframe.work.new_cut(), "reframe"),
    ActionSpec("play.toggle", "Path", "Play or stop", "Space", lambda w: w.reframe.toggle_play(), "reframe"),
    ActionSpec("play.back", "Path", "One frame back", "Left", lambda w: w.reframe.step(-1), "reframe"),
    ActionSpec("play.ahead", "Path", "One frame ahead", "Right", lambda w: w.reframe.step(1), "reframe"),
    *(
        ActionSpec(
            f"view.{words.replace(' ', '-')}", "Path", words[:1].upper() + words[1:], keys, _nudged(name, by), "reframe"
        )
        for words, keys, name, by in (
            ("turn left", "Shift+Left", "yaw_deg", -1.0),
            ("turn right", "Shift+Right", "yaw_deg", 1.0),
            ("look higher", "Shift+Up", "pitch_deg", 1.0),
            ("look lower", "Shift+Down", "pitch_deg", -1.0),
            ("roll left", "Shift+PgUp", "roll_deg", -1.0),
            ("roll right", "Shift+PgDown", "roll_deg", 1.0),
            ("closer", "+", "fov_deg", -2.0),
            ("wider", "-", "fov_deg", 2.0),
            ("bend more", "Alt+Up", "bend", 0.05),
            ("bend less", "Alt+Down", "bend", -0.05),
        )
    ),
    ActionSpec("take.find", "Take", "Find footage that moved", "", lambda w: w.clip_work.find_again()),
    ActionSpec("take.sheet", "Take", "This recording…", "F10", lambda w: w.open_take_sheet(), "reframe"),
    ActionSpec("take.off", "Take", "Hold as it was filmed", "Ctrl+1", lambda w: w.take_work.hold("off"), "reframe"),
    ActionSpec("take.smooth", "Take", "Take the shake out", "Ctrl+2", lambda w: w.take_work.hold("smooth"), "reframe"),
    ActionSpec(
        "take.level", "Take", "Hold the horizon level", "Ctrl+3", lambda w: w.take_work.hold("level"), "reframe"
    ),
    ActionSpec("take.lock", "Take", "Hold the world still", "Ctrl+4", lambda w: w.take_work.hold("lock"), "reframe"),
    ActionSpec(
        "take.way", "Take", "Look where the way leads", "Ctrl+5", lambda w: w.take_work.hold("heading"), "reframe"
    ),
    ActionSpec(
        "take.horizon", "Take", "Set the horizon by two clicks", "", lambda w: w.take_work.begin_horizon(), "reframe"
    ),
    ActionSpec("take.track", "Take", "Track what is in the middle", "J", lambda w: w.tracking.track(), "reframe"),
    ActionSpec(
        "take.people", "Take", "People in this picture…", "Ctrl+P", lambda w: w.tracking.find_people(), "reframe"
    ),
    ActionSpec(
        "take.another",
        "Take",
        "Track something else in the middle…",
        "Ctrl+Shift+J",
        lambda w: w.tracking.track_another(),
        "reframe",
    ),
    ActionSpec("path.along", "Path", "Go with the subject", "Shift+J", lambda w: w.tracking.go_along(), "reframe"),
    ActionSpec("take.untrack", "Take", "Forget what was tracked", "", lambda w: w.tracking.forget(), "reframe"),
    ActionSpec("take.north", "Take", "North is here", "", lambda w: w.reframe.hold_work.north_here(), "reframe"),
    ActionSpec("take.mark", "Path", "Mark this moment", "M", lambda w: w.reframe.work.mark(), "reframe"),
    ActionSpec("shot.place", "Shot", "Where is it…", "F6", lambda w: w.place.open_places(), "place"),
    ActionSpec("shot.carrier", "Shot", "On what…", "F7", lambda w: w.place.open_carriers(), "place"),
    ActionSpec(
        "view.north",
        "Desks",
        "Plan with north up, or the way to the right",
        "",
        lambda w: w.place.plan.turn_north_up(),
        "place",
    ),
    ActionSpec("day.track", "Day", "The way of the day…", "Ctrl+G", lambda w: w.place.open_track(), "place"),
    ActionSpec("shot.subjects", "Shot", "Who is filmed…", "F8", lambda w: w.place.open_subjects(), "place"),
    ActionSpec("shot.light", "Shot", "Light of the take…", "Ctrl+Shift+T", lambda w: w.expose.open_light(), "expose"),
    ActionSpec("shot.frame", "Shot", "Measure a test frame…", "Ctrl+Shift+F", lambda w: w.expose.ask_frame(), "expose"),
    ActionSpec("shot.merge", "Shot", "Merge a bracket…", "Ctrl+Shift+M", lambda w: w.expose.ask_merge(), "expose"),
    ActionSpec("log.roll", "Take", "Roll, or stop", "Space", lambda w: w.record.log.turn(), "record"),
    ActionSpec("log.tick", "Take", "Tick the next line of the list", "T", lambda w: w.record.tick_next(), "record"),
    *(
        ActionSpec(f"log.{what.replace(' ', '_')}", "Take", f"Log: {WHATS[what]}", key, _logged(what), "record")
        for key, what in LOG_KEYS
    ),
    ActionSpec("log.favourite", "Take", "A favourite, or not", "F", lambda w: w.record.log.favour(), "record"),
    *(ActionSpec(f"log.rate_{n}", "Take", f"Rate the rolling: {n}", str(n), _rated(n), "record") for n in range(1, 6)),
    ActionSpec("log.cameras", "Take", "Cameras on the link…", "Ctrl+Shift+C", lambda w: w.record.open_cameras()),
    ActionSpec("log.alone", "Take", "The log in a small window", "Ctrl+Shift+R", lambda w: w.record.log_alone()),
    ActionSpec("take.record", "Take", "Rehearse a take", "Ctrl+R", lambda w: w.record.start()),
    ActionSpec("take.bring", "Take", "Bring everything over from the card", "Ctrl+B", lambda w: w.offload.start()),
    *(
        ActionSpec(f"look.{name}", "Take", words, keys, do, "offload")
        for name, words, keys, do in (
            ("through", "Look through, one after the other", "L", lambda w: w.offload.look_through()),
            ("keep", "Keep", "K", lambda w: w.offload.judge("keep")),
            ("maybe", "Maybe", "O", lambda w: w.offload.judge("maybe")),
            ("drop", "Drop", "X", lambda w: w.offload.judge("drop")),
            ("skip", "The next one", "N", lambda w: w.offload.skip()),
            ("play", "Play or stop", "Space", lambda w: w.offload.toggle_play()),
            ("way", "Look another way", "V", lambda w: w.offload.viewer.next_look()),
            ("mark", "Mark this moment", "M", lambda w: w.offload.mark()),
            ("in", "Worth keeping from here", "[", lambda w: w.offload.begin_part()),
            ("out", "Worth keeping to here", "]", lambda w: w.offload.end_part()),
            ("compare", "Compare two takes", "C", lambda w: w.offload.compare()),
            ("part", "Only the good part, as a further file", "Ctrl+P", lambda w: w.offload.only_part()),
            ("work", "Work on this one", "Return", lambda w: w.offload.open_in_reframe()),
            ("log", "Which log is this from…", "G", lambda w: w.offload.ask_log()),
            ("folder", "Another card or folder…", "Ctrl+Shift+O", lambda w: w.offload.ask_folder()),
            ("places", "Where copies go…", "", lambda w: w.offload.ask_places()),
            ("prove", "Prove the copies again", "Ctrl+Shift+B", lambda w: w.offload.prove_again()),
            ("prove_other", "Prove a folder of copies again…", "", lambda w: w.offload.ask_proven()),
        )
    ),
    *(ActionSpec(f"look.rate_{n}", "Take", f"Stars: {n}", str(n), _starred(n), "offload") for n in range(1, 6)),
    ActionSpec("take.copy", "Take", "Copy this shot's recordings into the day", "", lambda w: w.clip_work.copy_in()),
    ActionSpec("take.rename", "Take", "Rename take…", "", lambda w: w.clip_work.rename()),
    ActionSpec("take.remove", "Take", "Remove take from the day", "", lambda w: w.clip_work.remove()),
    ActionSpec("export.render", "Take", "Render what is ticked", "Ctrl+E", lambda w: w.export.render_ticked()),
    *(ActionSpec(f"desk.{n}", "Desks", name, f"Alt+{n}", _shown(n - 1)) for n, name in enumerate(_DESK_NAMES, 1)),
    ActionSpec("view.edges", "Desks", "Fold or open all edges", "F9", lambda w: w.edges.turn_all()),
    ActionSpec("view.day", "Desks", "Fold or open the day", "Alt+D", lambda w: w.edges.turn("day")),
    ActionSpec("view.shots", "Desks", "Fold or open the shots", "Alt+S", lambda w: w.edges.turn("shots")),
    ActionSpec("view.findings", "Desks", "Fold or open the findings", "Ctrl+F", lambda w: w.edges.turn("findings")),
    ActionSpec(
        "view.alone", "Desks", "The frame alone, on the whole screen", "F11", lambda w: w.look_alone(), "reframe"
    ),
    ActionSpec("view.dusk", "Desks", "Dusk colours", "", lambda w: w.dusk()),
    ActionSpec(
        "help.find",
        "Help",
        "Find a command",
        "Ctrl+Space",
        lambda w: Finder(w.parent_widget, ACTIONS, w.actions_by_id).show(),
    ),
    ActionSpec("help.explain", "Help", "How these numbers come about", "F2", lambda w: w.explain()),
    ActionSpec("help.keys", "Help", "Keys", "F1", lambda w: keys_page(w.parent_widget, ACTIONS).show()),
)


def menus_of(bar: QMenuBar) -> dict[str, QMenu]:
    """The menus by their names, still empty."""
    menus = {name: bar.addMenu(name) for name in dict.fromkeys(spec.menu for spec in ACTIONS)}
    return {name: menu for name, menu in menus.items() if menu is not None}


def bind(window: Commanded, menus: Mapping[str, QMenu]) -> dict[str, QAction]:
    """Makes every action and fills the menus."""
    actions: dict[str, QAction] = {}
    for spec in ACTIONS:
        action = QAction(spec.text, window.parent_widget)
        if spec.keys:
            action.setShortcut(spec.keys)
        action.triggered.connect(lambda _checked=False, do=spec.do: do(window))
        actions[spec.id] = action
        menus[spec.menu].addAction(action)
    window.parent_widget.addActions(list(actions.values()))
    return actions
