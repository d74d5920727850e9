"""The place being gathered: groups of solids, and the one flat array that the renderer reads."""

import numpy as np
from msgspec import Struct, field

from glintor.placement.solids import Parts
from glintor.simulation import table as rt
from glintor.simulation.things import bounds
from glintor.types import Array


class Stand(Struct, frozen=True, eq=False):
    """Where the carrier is in its place, and what the place keeps beside its solids.

    base    (3,) of the carrier's origin in the scene, on its surface; rows: hedges and trees, as `raytrace` takes them
    boat_s  from where the parts of a boat count; lift_m: how far a subject that stands elsewhere has been lifted
    """

    base: Array
    rows: Array
    boat_s: float = 0.0
    lift_m: float = 0.0


class Builder(Struct):
    groups: list[Parts] = field(default_factory=list)
    lamps: list[tuple[float, float, float, float]] = field(default_factory=list)  # place and candela
    photo: Array | None = None  # (H, W, 3) linear light
    horizon: list[float] = field(
        default_factory=list
    )  # tangents of its height, evenly all the way round from ahead to the left

    def group(self) -> Parts:
        self.groups.append(Parts())
        return self.groups[-1]

    def cluster(self, parts: list[Parts]) -> None:
        """Groups that lie together, with bounds of them all before them: what misses those misses each."""
        self.groups += [Parts(cluster=len(parts)), *parts]

    def world(self, head: Array, rows: Array) -> Array:
        """The head with the tables behind it, and where each begins written into the head."""
        start = rt.HEAD + rows.size
        table = np.zeros((len(self.groups), rt.GROUP_SIZE))
        tail: list[float] = []
        base = start + table.size
        for number, (row, parts) in enumerate(zip(table, self.groups, strict=True)):
            row[14], row[15], row[16] = parts.shadow_only, parts.owner, parts.cluster
            if parts.cluster:
                each = np.array([bounds(p) for p in self.groups[number + 1 : number + 1 + parts.cluster]])
                row[:3], row[3:6] = each[:, :3].min(axis=0), each[:, 3:].max(axis=0)
                continue
            row[:6] = bounds(parts)
            for column, name in ((6, "boxes"), (8, "capsules"), (10, "ellipsoids")):
                row[column] = base + len(tail)
                tail += [number for solid in getattr(parts, name) for number in solid]
                row[column + 1] = base + len(tail)
            prisms: list[float] = []
            for faces, material in parts.prisms:
                first = base + len(tail)
                tail += faces.ravel().tolist()
                prisms += [first, base + len(tail), material]
            row[12] = base + len(tail)
            tail += prisms
            row[13] = base + len(tail)
        head[[rt.LAMPS, rt.LAMP_COUNT]] = base + len(tail), len(self.lamps)
        tail += [number for lamp in self.lamps for number in lamp]
        head[[rt.HORIZON, rt.HORIZON_COUNT]] = base + len(tail), len(self.horizon)
        tail += self.horizon
        head[[rt.ROWS, rt.ROW_COUNT, rt.GROUPS, rt.GROUP_COUNT]] = rt.HEAD, len(rows), start, len(table)
        if self.photo is None:
            return np.concatenate([head, rows.ravel(), table.ravel(), tail])
        head[[rt.PHOTO_AT, rt.PHOTO_W, rt.PHOTO_H]] = base + len(tail), self.photo.shape[1], self.photo.shape[0]
        return np.concatenate([head, rows.ravel(), table.ravel(), tail, self.photo.ravel()])
