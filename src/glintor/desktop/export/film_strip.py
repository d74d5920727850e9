"""Films from cuts: a row of small pictures with the joins between them, how long it is, and what it lacks."""

from msgspec.structs import replace
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QImage, QKeyEvent, QPixmap
from PyQt6.QtWidgets import QCheckBox, QFrame, QHBoxLayout, QInputDialog, QPushButton, QScrollArea, QVBoxLayout, QWidget

from glintor.desktop.controls import Elided, Number, button, choice, label, offer, row
from glintor.desktop.document import Document
from glintor.project.films import film_findings, length_s, pieces_of, with_film
from glintor.project.model import Film, Piece, Project, fresh_id
from glintor.reframing.joins import USUAL_S, WORDS, Join, JoinKind

_CARD_PX, _PICTURE_PX = 118, 62
_CARRY_S = 0.4  # a sound that goes on under the next cut


class _Card(QPushButton):
    """One cut of a film: its picture, name and length."""

    def __init__(self, name: str, length: float, picture: QPixmap | None, number: int) -> None:
        super().__init__()
        self.setCheckable(True)
        self.setObjectName("card")
        self.setFixedWidth(_CARD_PX)
        self.setAccessibleName(f"Cut {number + 1} of the film: {name}, {length:.1f} s")
        self.setToolTip(self.accessibleName())
        column = QVBoxLayout(self)
        column.setContentsMargins(5, 5, 5, 5)
        column.setSpacing(2)
        seen = label("")
        seen.setFixedHeight(_PICTURE_PX)
        seen.setAlignment(Qt.AlignmentFlag.AlignCenter)
        if picture is not None:
            seen.setPixmap(picture)
        column.addWidget(seen)
        column.addWidget(Elided(name))
        column.addWidget(label(f"{length:.1f} s", "soft"))
        self.setFixedHeight(_PICTURE_PX + 54)


class FilmStrip(QWidget):
    """Works on one film of the day; `render_asked` and `play_asked` say which is to be rendered, or looked at."""

    render_asked = pyqtSignal(str)
    play_asked = pyqtSignal(str)

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self._film_id = ""
        self._chosen = -1
        self._shown: object = None
        self._pictures: dict[tuple[str, str], QPixmap] = {}
        self.films = choice("Film", letters=14)
        self.add = choice("Add a cut to the film", letters=14)
        self.wanted = Number("wanted", " s", 0.0, 36000.0, 1.0, 0, least="any", bare=True)
        self.wanted.box.setMaximumWidth(70)
        self.words = Elided("", "soft")
        self.earlier = button("Earlier", lambda: self.shift(-1), tip="The chosen cut one place earlier (Ctrl+Left)")
        self.later = button("Later", lambda: self.shift(1), tip="The chosen cut one place later (Ctrl+Right)")
        self.drop = button("Take out", self.take_out, tip="The chosen cut out of the film; it stays in the day (Del)")
        self.rename = button("Name…", self._ask_name)
        self.look = button(
            "Play it", lambda: self.play_asked.emit(self._film_id), tip="As it will be, small and without sound"
        )
        self.make = button("Render the film", lambda: self.render_asked.emit(self._film_id))
        self._cards: list[_Card] = []
        self._joins: list[QWidget] = []
        self._row = QHBoxLayout()
        self._row.setSpacing(6)
        self._row.setContentsMargins(0, 0, 0, 0)
        inside = QWidget()
        inside.setLayout(self._row)
        self._scroll = QScrollArea()
        self._scroll.setAccessibleName("Cuts of the film in their order")
        self._scroll.setWidgetResizable(True)
        self._scroll.setFrameShape(QFrame.Shape.NoFrame)
        self._scroll.setFixedHeight(_PICTURE_PX + 70)
        self._scroll.setWidget(inside)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        top = row(self.films, self.add, self.wanted, spacing=9, stretch=False)
        top.addStretch(1)
        for thing in (self.earlier, self.later, self.drop, self.rename, self.look, self.make):
            top.addWidget(thing)
        column.addLayout(top)
        column.addWidget(self._scroll)
        column.addWidget(self.words)
        self.films.activated.connect(self._choose_film)
        self.add.activated.connect(self._add_at)
        self.wanted.edited.connect(lambda v: self._change("Length that is wanted", wanted_s=v or None))

    # What is worked on
    @property
    def film(self) -> Film | None:
        """The film at hand."""
        return next((f for f in self._document.project.films if f.id == self._film_id), None)

    def show_project(self, project: Project) -> None:
        """The films of a day, and the one at hand."""
        if self.film is None:
            self._film_id = project.films[0].id if project.films else ""
        cuts = [(shot, cut) for shot in project.shots for cut in shot.cuts]
        key = (
            project.films,
            tuple((s.id, s.name, c) for s, c in cuts),
            self._film_id,
            self._chosen,
            len(self._pictures),
        )
        if key == self._shown:
            return
        self._shown = key
        offer(self.films, [*((f.id, f.name) for f in project.films), ("", "New film")] if cuts else [("", "New film")])
        film = self.film
        self.films.setCurrentIndex(self.films.findData(self._film_id) if film is not None else -1)
        self.films.setPlaceholderText("Join cuts into a film…")
        offer(self.add, [(None, "Add a cut…"), *(((s.id, c.id), f"{c.name}, {s.name}") for s, c in cuts)])
        self.add.setVisible(film is not None)
        self.setEnabled(bool(cuts))
        self._lay_cards(project, film)
        for thing in (
            self.wanted,
            self.earlier,
            self.later,
            self.drop,
            self.rename,
            self.look,
            self.make,
            self._scroll,
        ):
            thing.setVisible(film is not None)
        some = film is not None and 0 <= self._chosen < len(film.pieces)
        for thing in (self.earlier, self.later, self.drop):
            thing.setEnabled(some)
        if film is None:
            self.words.show_words("A film is cuts in a row: choose New film, then add cuts")
            return
        self.wanted.show_value(film.wanted_s or 0.0)
        count = len(film.pieces)
        told = f"{count} cut{'s' if count > 1 else ''}, {length_s(project, film):.1f} s"
        self.words.show_words("; ".join([told, *film_findings(project, film)]))

    def _lay_cards(self, project: Project, film: Film | None) -> None:
        while self._row.count():
            item = self._row.takeAt(0)
            if item is not None and item.widget() is not None:
                item.widget().hide()
                item.widget().deleteLater()
        self._cards, self._joins = [], []
        for number, (piece, shot, cut) in enumerate(pieces_of(project, film) if film is not None else ()):
            if number:
                self._row.addWidget(self._join_box(number, piece.join))
            card = _Card(cut.name, cut.timeline.duration_s, self._pictures.get((shot.id, cut.id)), number)
            card.setChecked(number == self._chosen)
            card.clicked.connect(lambda _on, n=number: self.choose(n))
            self._cards.append(card)
            self._row.addWidget(card)
        self._row.addStretch(1)

    def _join_box(self, number: int, join: Join) -> QWidget:
        """How a cut is come to from the one before it, and whether the sound goes on."""
        kinds = choice(f"Join before cut {number + 1}", list(WORDS.items()))
        kinds.setCurrentIndex(kinds.findData(join.kind))
        kinds.activated.connect(lambda at: self.set_join(number, kinds.itemData(at)))
        length = Number("", " s", 0.0, 5.0, 0.1, 1, bare=True)
        length.box.setAccessibleName(f"How long the join before cut {number + 1} takes")
        length.show_value(join.length_s)
        length.setEnabled(join.kind != "straight")
        length.edited.connect(lambda v: self._set_join(number, length_s=v))
        sound = QCheckBox("sound on")
        sound.setChecked(join.carry_s > 0.0)
        sound.setToolTip("The sound before goes on under this cut and dies away while its own comes up")
        sound.setAccessibleName(f"Sound goes on over the join before cut {number + 1}")
        sound.clicked.connect(lambda on: self._set_join(number, carry_s=_CARRY_S if on else 0.0))
        box = QWidget()
        column = QVBoxLayout(box)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addStretch(1)
        for thing in (kinds, length, sound):
            column.addWidget(thing)
        column.addStretch(1)
        self._joins.append(box)
        return box

    def show_picture(self, shot_id: str, cut_id: str, picture: QImage) -> None:
        """A small picture of a cut, as its film shows it."""
        pixmap = QPixmap.fromImage(picture).scaledToHeight(_PICTURE_PX, Qt.TransformationMode.SmoothTransformation)
        self._pictures[shot_id, cut_id] = pixmap
        self._shown = None

    # Gestures
    def _edit(self, words: str, film: Film) -> None:
        self._document.edit(words, with_film(self._document.project, film))

    def _change(self, words: str, **changes: object) -> None:
        if self.film is not None:
            self._edit(words, replace(self.film, **changes))

    def _choose_film(self, at: int) -> None:
        film_id = str(self.films.itemData(at) or "")
        if film_id:
            self._film_id, self._chosen = film_id, -1
            self.show_project(self._document.project)
        else:
            self.new_film()

    def new_film(self) -> None:
        """A film that begins with the cut at hand."""
        project, shot, cut = self._document.project, self._document.shot, self._document.cut
        first = (shot, cut) if cut is not None else next(((s, c) for s in project.shots for c in s.cuts), None)
        if first is None:
            return
        name = f"Film {len(project.films) + 1}"
        film_id = fresh_id("film", {f.id for f in project.films})
        self._film_id, self._chosen = film_id, 0
        piece = Piece(shot_id=first[0].id, cut_id=first[1].id)
        self._edit("New film", Film(id=film_id, name=name, pieces=(piece,)))

    def _add_at(self, at: int) -> None:
        key = self.add.itemData(at)
        self.add.setCurrentIndex(0)
        if key is not None:
            self.add_cut(*key)

    def add_cut(self, shot_id: str, cut_id: str) -> None:
        """A cut after the chosen one, else at the film's end."""
        film = self.film
        if film is None:
            return
        at = self._chosen + 1 if self._chosen >= 0 else len(film.pieces)
        pieces = (*film.pieces[:at], Piece(shot_id=shot_id, cut_id=cut_id), *film.pieces[at:])
        self._chosen = at
        self._edit("Add a cut to the film", replace(film, pieces=pieces))

    def choose(self, number: int) -> None:
        self._chosen = number
        self.show_project(self._document.project)

    def shift(self, by: int) -> None:
        """The chosen cut so many places later."""
        film, n = self.film, self._chosen
        if film is None or not (0 <= n < len(film.pieces) and 0 <= n + by < len(film.pieces)):
            return
        pieces = list(film.pieces)
        pieces.insert(n + by, pieces.pop(n))
        self._chosen = n + by
        self._edit("Another order of the film", replace(film, pieces=tuple(pieces)))

    def take_out(self) -> None:
        film, n = self.film, self._chosen
        if film is None or not 0 <= n < len(film.pieces):
            return
        pieces = (*film.pieces[:n], *film.pieces[n + 1 :])
        self._chosen = min(n, len(pieces) - 1)
        if pieces:
            self._edit("Take a cut out of the film", replace(film, pieces=pieces))
        else:
            project = self._document.project
            left = tuple(f for f in project.films if f.id != film.id)
            self._document.edit("Remove the film", replace(project, films=left))

    def set_join(self, number: int, kind: JoinKind) -> None:
        """Another kind of join, as long as such a one usually is."""
        self._set_join(number, kind=kind, length_s=USUAL_S[kind])

    def _set_join(self, number: int, **changes: object) -> None:
        film = self.film
        if film is not None and 0 < number < len(film.pieces):
            piece = replace(film.pieces[number], join=replace(film.pieces[number].join, **changes))
            pieces = (*film.pieces[:number], piece, *film.pieces[number + 1 :])
            self._edit("How cuts are joined", replace(film, pieces=pieces))

    def _ask_name(self) -> None:
        if self.film is not None:
            name, given = QInputDialog.getText(self, "Name of the film", "Its name:", text=self.film.name)
            if given and name.strip():
                self._change("Name the film", name=name.strip()[:80])

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        held = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        way = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()), 0)
        count = len(self.film.pieces) if self.film is not None else 0
        if way and held:
            self.shift(way)
        elif way and count:
            self.choose(min(max(self._chosen + way, 0), count - 1))
        elif event.key() == Qt.Key.Key_Delete:
            self.take_out()
        else:
            super().keyPressEvent(event)
