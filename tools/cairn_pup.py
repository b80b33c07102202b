#!/usr/bin/env python3
"""Writes the Cairn Pup: the Hollowback's family at three months. Skull as large as the chest, stubby limbs."""
import sys

from sample_recipe import Recipe, curve

r = Recipe()
r.do("creature.height", mm=70)
r.ellipsoid("chest", [0, 27, 12], [15, 15, 16], melt=8)
r.ellipsoid("rump", [0, 25, -14], [14, 14, 14], parent="chest", melt=12)
r.ellipsoid("belly", [0, 20, 0], [13, 11, 18], parent="chest", melt=10)
r.tube("neck", [[0, 33, 18, 11], [0, 40, 23, 9.5], [0, 46, 26, 10]], parent="chest", melt=8)
r.ellipsoid("skull", [0, 52, 29], [14.5, 13.5, 15.5], turn=[12, 0, 0], parent="neck", melt=6)
r.limb("muzzle", [0, 47.5, 39, 8.4], [0, 44.5, 48, 6.6], parent="skull", melt=6)
r.limb("jaw", [0, 43.5, 34, 7], [0, 40.5, 45, 4.8], parent="skull", melt=3.5)
r.ellipsoid("nose", [0, 46.5, 53.2], [4.2, 3, 2.6], parent="muzzle", melt=2.5)
r.ellipsoid("cheek", [8.6, 45, 36], [5, 5.5, 7], mirror=True, parent="skull", melt=5)
r.ball("eye", [9.4, 54.2, 39.2], 3.6, role="apart", mirror=True, parent="skull")
r.ellipsoid("eye socket", [10.6, 54.2, 41], [3.8, 4, 4], role="cut", mirror=True, parent="skull", melt=2.5)
r.limb("brow", [4.6, 59.4, 41.2, 2.2], [12.4, 58.2, 36.5, 2.4], mirror=True, parent="skull", melt=4)
r.limb("upper lid", [6.6, 57.2, 42.2, 1.2], [12.2, 56, 38.4, 1.3], mirror=True, parent="skull", melt=1.8)
r.tube("ear", [[11, 60, 24, 4], [17.5, 63.5, 20, 3.6], [22.5, 62, 15, 1.2]], scale=[1, 1, 0.62], mirror=True, parent="skull", melt=4)
r.tube("horn bud", [[6, 63.5, 25, 3.4], [8.2, 67, 21.5, 2.8], [10.5, 67.2, 17.6, 1.5]], mirror=True, parent="skull", melt=2)
r.ellipsoid("nostril", [2.2, 47, 55], [1, 0.9, 1.6], role="cut", mirror=True, parent="nose", melt=1)
for name, x, z, top, thick in (("fore", 9.5, 17, 21, 6.2), ("mid", 10.5, 2, 17, 5.2), ("hind", 10, -17, 20, 6.6)):
    r.ellipsoid(f"{name} shoulder", [x, top, z], [thick * 1.05, thick * 1.3, thick * 1.1], mirror=True, parent="rump" if name == "hind" else "chest", melt=6)
    r.limb(f"{name} upper limb", [x, top - 2, z, thick], [x + 1.2, 10, z + (3 if name == "hind" else -1), thick * 0.8], mirror=True, parent=f"{name} shoulder", melt=4)
    r.limb(f"{name} shank", [x + 1.2, 10, z + (2 if name == "hind" else -1), thick * 0.78], [x + 1.2, 4.6, z + 1, thick * 0.78], mirror=True, parent=f"{name} upper limb", melt=3)
    r.ellipsoid(f"{name} foot", [x + 1.4, 3.4, z + 3], [thick * 0.95, 3.5, thick * 1.15], mirror=True, parent=f"{name} shank", melt=3)
    for k in (-1, 0, 1):
        r.limb(f"{name} toe {k + 2}", [x + 1.4 + k * thick * 0.5, 3, z + 5, 2.2], [x + 1.4 + k * thick * 0.62, 2, z + 5 + thick * 0.75, 1.9], mirror=True, parent=f"{name} foot", melt=1.6)
r.tube("tail", [[0, 27, -24, 8], [0, 25, -34, 5.6], [0, 21, -42, 4], [0, 22, -50, 2.6]], parent="rump", melt=8)
for i, (x, y, z) in enumerate(curve([[0, 42, 15], [0, 41, 6], [0, 38.6, -4], [0, 39, -14], [0, 35, -24]], 9)):
    h = 2.6 - 0.18 * abs(i - 3)
    r.ellipsoid(f"soft plate {i + 1}", [2.2, y - 1.2, z], [1.1, h, 2.1], turn=[-14, 0, -14], mirror=True, parent="chest" if i < 4 else "rump", melt=1.6)
r.do("knit.forms", faces=60000, name="Cairn Pup")
r.write(sys.argv[1])
