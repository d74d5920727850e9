"""Tracking in the real window: turned to, followed, corrected, gone along with."""

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from glintor.project.store import clip_files
from glintor.project.subjects import found_subject, pointed_at
from glintor.reframing.track import SURE, read_track, track_file
from glintor.sphere.equirect import direction
from glintor.sphere.view import View


@pytest.fixture
def stern(window, settle):
    window.document.choose_shot("stern-third-person")
    window.show_desk(4)
    settle()
    window.activateWindow()
    return window


def test_a_subject_is_tracked_corrected_and_gone_along_with_by_keys(stern, settle, qtbot):
    window, document = stern, stern.document
    take, file = document.take, document.file
    truth = read_track(track_file(clip_files(file, take)[0]))
    now = truth.at(np.array([3.0]))
    window.reframe.go_to(3.0)
    window.reframe.hand.look = View(yaw_deg=float(now.yaw_deg[0]), pitch_deg=float(now.pitch_deg[0]), fov_deg=70.0)
    QTest.keyClick(window, "j")
    qtbot.waitUntil(lambda: not window.jobs.running, timeout=120000)
    settle()
    found = found_subject(file, take)
    assert found is not None and (found.state == SURE).mean() > 0.8 and len(pointed_at(file, take)) == 1
    assert window.reframe.known.track is not None and window.reframe.known.track.state is not None

    before = document.cut
    QTest.keyClick(window, "j", Qt.KeyboardModifier.ShiftModifier)
    settle()
    cut = document.cut
    assert cut is not None and cut != before and 2 <= len(cut.keys) < 60
    times = np.linspace(cut.in_s, cut.out_s, 60)
    from glintor.reframing.path import path_of

    shown, there = path_of(cut.keys, cut.span_s).values(times), truth.at(times)
    looks = direction(shown[:, 0], shown[:, 1]) * direction(there.yaw_deg, there.pitch_deg)
    assert np.percentile(np.degrees(np.arccos(np.clip(looks.sum(axis=1), -1.0, 1.0))), 95) < 4.0
    document.undo()
    assert document.cut == before

    window.tracking.forget()
    assert found_subject(file, take) is None and pointed_at(file, take) == ()
