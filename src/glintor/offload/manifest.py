"""The manifest of a folder of footage: an ASC Media Hash List (ASC MHL v2.0), written by its reference library."""

import io
from contextlib import redirect_stdout
from pathlib import Path

from glintor.errors import GlintorError


class ManifestError(GlintorError):
    """The folder no longer holds what its manifest says."""


def write_manifest(folder: Path) -> Path:
    """Adds a generation with the xxh64 of every file in `folder`; returns the newest manifest.

    Files of earlier generations are checked again. Raises ManifestError where one changed or is missing.
    """
    from ascmhl import commands  # slow to import
    from ascmhl.errors import CompletenessCheckFailedException, VerificationFailedException

    said = io.StringIO()
    try:
        with redirect_stdout(said):
            commands.create_for_folder_subcommand(
                str(folder), False, False, ["xxh64"], False, None, None, None, None, None, None, [".*.part*"]
            )
    except (VerificationFailedException, CompletenessCheckFailedException) as error:
        raise ManifestError(
            f"{folder} no longer holds what its manifest says: {error.message}",
            unharmed="Nothing was changed.",
            advice="Copy the file that differs from the card again, under a new name.",
        ) from error
    return max((folder / "ascmhl").glob("*.mhl"))
