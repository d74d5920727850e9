"""Files that are damaged, or that say what no file can mean: each is told in a sentence, none hangs or passes for a fault."""

import struct

import numpy as np
import pytest

from glintor.media.kept_arrays import read_arrays
from glintor.media.spherical import film_note
from glintor.quantities import absurd


def box(kind: bytes, content: bytes) -> bytes:
    return struct.pack(">I4s", 8 + len(content), kind) + content


def nested(depth: int, content: bytes) -> bytes:
    for _ in range(depth):
        content = box(b"moov", content)
    return content


EQUI = box(b"equi", bytes(4) + struct.pack(">4I", 0, 0, 2**30, 2**30))  # a quarter cut off at each side


@pytest.mark.parametrize(("depth", "found"), [(8, True), (16, True), (17, False), (3000, False)])
def test_boxes_nested_without_end_are_read_so_far_and_no_further(tmp_path, depth, found):
    (tmp_path / "a.mp4").write_bytes(nested(depth, EQUI))
    note = film_note(tmp_path / "a.mp4")
    assert (note is not None) == found


def test_a_pose_is_turned_the_way_the_standard_says(tmp_path):
    """Source: Spherical Video V2, prhd: yaw counter-clockwise seen from above, pitch up, roll counter-clockwise about forward, each in
    16.16 degrees. Here yaw is told clockwise from north."""
    prhd = box(b"prhd", bytes(4) + struct.pack(">3i", 10 << 16, 20 << 16, 30 << 16))
    (tmp_path / "a.mp4").write_bytes(prhd + box(b"equi", bytes(20)))
    assert film_note(tmp_path / "a.mp4").pose_deg == (350.0, 20.0, 30.0)


def test_a_kept_array_that_is_damaged_counts_as_not_found(tmp_path):
    file = tmp_path / "kept.npz"
    np.savez(file, a=np.arange(5.0), b=np.zeros((5, 4)))
    whole = file.read_bytes()
    assert read_arrays(file, ("a", "b"))["b"].shape == (5, 4) and read_arrays(file, ("a", "c")) is None
    for cut in range(0, len(whole), 37):
        file.write_bytes(whole[:cut])
        assert read_arrays(file, ("a", "b")) is None
    kept = 0
    for at in range(0, len(whole), 11):
        file.write_bytes(whole[:at] + bytes([whole[at] ^ 0xFF]) + whole[at + 1 :])
        kept += read_arrays(file, ("a", "b")) is not None
    assert kept < len(whole) // 22  # what is no part of the arrays may be anything
    np.savez(file, a=np.array([1.0, np.nan]), b=np.zeros(2))
    assert read_arrays(file, ("a", "b")) is None


@pytest.mark.parametrize(
    ("rate", "wrong"), [(1e-308, True), (0.00099, True), (0.00101, False), (9999.0, False), (10001.0, True)]
)
def test_a_rate_that_nothing_can_be_divided_by_is_refused(rate, wrong):
    assert (absurd("rate_fps", rate) is not None) == wrong
