"""Films from cuts on the Export desk."""

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from glintor.project.films import length_s


def test_a_film_is_built_joined_ordered_measured_and_rendered(window, settle, monkeypatch):
    window.show_desk(5)
    settle()
    strip, document = window.export.films, window.document
    assert strip.film is None and "choose New film" in strip.words._words
    strip.films.activated.emit(strip.films.findData(""))
    first = strip.film
    assert first is not None and document.project.films == (first,) and len(strip._cards) == 1
    keys = [(s.id, c.id) for s in document.project.shots for c in s.cuts]
    for at in range(1, 3):
        strip.add.activated.emit(at)
    assert [(p.shot_id, p.cut_id) for p in strip.film.pieces][1:] == keys[:2] and len(strip._joins) == 2
    strip.set_join(1, "whip")
    assert strip.film.pieces[1].join.kind == "whip" and strip.film.pieces[1].join.length_s > 0
    strip.wanted.edited.emit(20.0)
    assert "too long" in strip.words._words and f"{length_s(document.project, strip.film):.1f} s" in strip.words._words
    strip._cards[2].setFocus()
    strip.choose(2)
    QTest.keyClick(strip, Qt.Key.Key_Left, Qt.KeyboardModifier.ControlModifier)
    assert [(p.shot_id, p.cut_id) for p in strip.film.pieces][1] == keys[1]
    QTest.keyClick(strip, Qt.Key.Key_Delete)
    assert len(strip.film.pieces) == 2
    document.undo()
    assert len(strip.film.pieces) == 3
    settle()
    queued = []
    monkeypatch.setattr(window.export.rendering, "add", lambda *jobs: queued.extend(jobs))
    strip.make.click()
    assert [(j.film_id, j.format) for j in queued] == [(strip.film.id, "16:9"), (strip.film.id, "9:16")]
    assert all(strip.film.id in j.target for j in queued)
    strip.choose(0)
    for _ in range(3):
        strip.take_out()
    assert document.project.films == () and strip.film is None
