"""What the parts of the Reframe desk say, and who hears it."""

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from glintor.desktop.reframe.desk import ReframeDesk


def connect(desk: "ReframeDesk") -> None:
    """Connects the signals of a desk's parts to what is done about them."""
    desk.frame.view_turned.connect(desk.turned)
    desk.frame.turn_ended.connect(desk.turn_ended)
    desk.frame.resized.connect(desk.draw)
    desk.board.angle_typed.connect(desk.work.type_angle)
    desk.board.play.clicked.connect(desk.toggle_play)
    desk.sphere.clicked.connect(desk.picking.click)
    desk.sphere.looked.connect(desk.picking.drag)
    desk.board.held.activated.connect(lambda at: desk.hold_asked.emit(str(desk.board.held.itemData(at))))
    desk.board.recording.clicked.connect(desk.recording_asked)
    desk.sphere.look_ended.connect(desk.document.end_gesture)
    desk.looks.chosen.connect(desk.choose_look)
    desk.shapes.chosen.connect(desk.choose_shape)
    desk.cuts.activated.connect(desk.choose_cut)
    desk.course.time_chosen.connect(desk.go_to)
    _connect_bars(desk)
    desk.board.propose.clicked.connect(desk.proposing.open)
    desk.board.fly.clicked.connect(lambda: desk.flying.turn())
    desk.board.alone.clicked.connect(desk.work.edit_alone)
    desk.course.in_dragged.connect(lambda t: desk.work.set_ends("Begin the cut", in_s=t))
    desk.course.out_dragged.connect(lambda t: desk.work.set_ends("End the cut", out_s=t))
    desk.course.part_marked.connect(desk.work.mark_part)
    desk.pace.speed_chosen.connect(lambda speed: desk.work.set_pace(speed=speed, end_speed=0.0))
    desk.pace.ramp_chosen.connect(lambda speed: desk.work.set_pace(end_speed=speed))
    desk.pace.back_wanted.connect(lambda back: desk.work.set_pace(backwards=back))
    desk.pace.hold_asked.connect(desk.work.hold)
    desk.pace.freeze_length_typed.connect(desk.work.set_freeze_length)
    desk.pace.freeze_moves_wanted.connect(desk.work.move_in_freeze)
    desk.pace.blur_wanted.connect(lambda blur: desk.work.set_film("Blur of speed-ups", blur=blur))
    desk.pace.sound_chosen.connect(lambda sound: desk.work.set_film("Sound of changed speeds", sound=sound))
    desk.reviewing.found.connect(desk.show_reviewed)
    desk.projector.drawn.connect(desk.show_drawn)
    desk.projector.failed.connect(lambda error: desk.frame.show_empty(str(error)))
    desk.player.moved.connect(desk.show_playing)
    desk.player.stopped.connect(desk.stopped)


def _connect_bars(desk: "ReframeDesk") -> None:
    """Keyframes, holds, moves and views beside, on the course and in their bars."""
    keys, course = desk.key_work, desk.course
    course.key_chosen.connect(keys.choose)
    course.key_added.connect(keys.add)
    course.keys_boxed.connect(keys.choose_several)
    course.drag_begun.connect(keys.begin_drag)
    course.key_dragged.connect(keys.drag_time)
    course.key_turned.connect(keys.drag_turn)
    course.key_tilted.connect(keys.drag_tilt)
    course.band_widened.connect(keys.widen)
    course.stage_dragged.connect(keys.drag_stage)
    course.drag_ended.connect(keys.end_drag)
    bar, hold = desk.board.key_bar, desk.board.hold_bar
    bar.time_typed.connect(keys.type_time)
    bar.length_typed.connect(keys.type_length)
    bar.ease_chosen.connect(lambda name, how: keys.ease(**{name: how}))
    bar.round_chosen.connect(lambda how: keys.go_round({"more": 1, "less": -1}.get(how, 0), how == "long"))
    moves, move = desk.board.move_bar, desk.move_work
    moves.wanted.connect(move.make)
    moves.changed.connect(move.change)
    moves.lasting.connect(move.last)
    moves.dissolve_asked.connect(move.dissolve)
    moves.remove_asked.connect(move.remove)
    course.move_dragged.connect(move.drag)
    beside, views = desk.board.beside_bar, desk.beside_work
    beside.kind_chosen.connect(views.choose)
    beside.view_chosen.connect(views.view)
    beside.changed.connect(views.change)
    hold.wanted.connect(desk.hold_work.hold)
    hold.changed.connect(desk.hold_work.change)
