"""Who is in the picture: a small picture of each, to be tracked by one click, as the take's subject or under a name of their own."""

from collections.abc import Sequence

import cv2
from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QIcon, QPixmap
from PyQt6.QtWidgets import QDialog, QGridLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from glintor.desktop.charts import marks
from glintor.desktop.controls import button, label, row
from glintor.media.people_there import Person

_PICTURE = (110, 150)
_ACROSS = 5


class PeopleSheet(QDialog):
    """`wanted` says who is to be tracked: pairs of a person and a name, "" for the take's subject."""

    wanted = pyqtSignal(object)

    def __init__(self, people: Sequence[Person], subject: str, taken: Sequence[str], over: QWidget) -> None:
        super().__init__(over)
        self.setWindowTitle("Who is in the picture")
        self._people, self._subject = people, subject
        self.pictures: list[QPushButton] = []
        self.names: list[QLineEdit] = []
        grid = QGridLayout()
        grid.setSpacing(12)
        free = [name for name in (subject, *(f"Person {n}" for n in range(2, len(people) + 9))) if name not in taken]
        for n, person in enumerate(people):
            picture = QPushButton()
            picture.setObjectName("card")
            picture.setCheckable(True)
            picture.setChecked(n == 0)
            picture.setIcon(QIcon(_pixmap(person)))
            picture.setIconSize(QSize(*_PICTURE))
            picture.setAccessibleName(f"Person {n + 1}: {person.size_deg:.0f} degrees high, sure by {person.sure:.0%}")
            picture.setToolTip(picture.accessibleName())
            name = QLineEdit(free[n])
            name.setMaximumWidth(_PICTURE[0] + 16)
            name.setMaxLength(40)
            name.setAccessibleName(f"Name of person {n + 1}")
            self.pictures.append(picture)
            self.names.append(name)
            grid.addWidget(picture, 2 * (n // _ACROSS), n % _ACROSS)
            grid.addWidget(name, 2 * (n // _ACROSS) + 1, n % _ACROSS)
        page = QVBoxLayout(self)
        page.setSpacing(12)
        page.addWidget(label("Choose who is to be tracked", "head"))
        page.addWidget(label("Whom the detector did not see: turn to them and press J.", "soft"))
        page.addLayout(grid)
        page.addStretch(1)
        go = button("Track", self._go, main=True)
        page.addLayout(row(None, button("Close", self.reject), go, stretch=False))
        self.setSizeGripEnabled(True)

    def _go(self) -> None:
        chosen = [
            (person, _file_name(name.text(), self._subject))
            for person, picture, name in zip(self._people, self.pictures, self.names, strict=True)
            if picture.isChecked()
        ]
        self.accept()
        if chosen:
            self.wanted.emit(chosen)


def _file_name(words: str, subject: str) -> str:
    """A name that can be a file's; "" for the take's subject."""
    plain = "".join(letter if letter.isalnum() or letter in " -_" else "-" for letter in words).strip()
    return "" if plain in ("", subject) else plain


def _pixmap(person: Person) -> QPixmap:
    rgb = cv2.cvtColor(person.picture, cv2.COLOR_BGR2RGB)
    pixmap = QPixmap.fromImage(marks.image(rgb))
    return pixmap.scaled(
        QSize(*_PICTURE), Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
    )
