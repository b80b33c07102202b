#!/usr/bin/env python3
"""Writes the Hollowback: armature, knit, strokes and layers. Lengths in mm; one skull is 38 mm."""
import math
import sys

from sample_recipe import Recipe, curve, noise

r = Recipe()
r.do("creature.height", mm=180)

# --- the three large masses and what joins them -------------------------------------------------
r.ellipsoid("chest", [0, 88, 44], [25, 33, 34], turn=[12, 0, 0], melt=10)
r.tube("barrel", [[0, 88, 46, 28], [0, 80, 22, 24], [0, 74.5, -2, 21.5], [0, 76, -26, 20], [0, 86, -50, 25]],
       parent="chest", scale=[0.92, 1, 1], melt=12)
r.ellipsoid("rump", [0, 88, -52], [23.5, 27, 25], turn=[-18, 0, 0], parent="barrel", melt=12)
r.ellipsoid("belly", [0, 65, 12], [18, 15, 34], turn=[6, 0, 0], parent="barrel", melt=12)
r.ellipsoid("withers", [0, 112, 40], [9, 13, 21], turn=[16, 0, 0], parent="chest", melt=12)
r.ellipsoid("brisket", [0, 68, 66], [12, 14, 14], turn=[-30, 0, 0], parent="chest", melt=12)
r.ellipsoid("hip points", [14, 106, -46], [6, 6, 10], turn=[0, 20, -20], mirror=True, parent="rump", melt=8)

# --- neck and skull --------------------------------------------------------------------------
r.tube("neck", [[0, 96, 58, 22], [0, 101, 80, 16.5], [0, 117, 95, 12], [0, 137, 96, 10], [0, 155, 96, 10.2], [0, 166, 106, 10.5]],
       parent="chest", scale=[0.9, 1, 1], melt=14)
r.ellipsoid("skull", [0, 168, 112], [10.5, 10.5, 15], turn=[20, 0, 0], parent="neck", melt=8)
r.limb("muzzle", [0, 164.5, 120, 8.2], [0, 154.5, 140, 5.6], parent="skull", melt=6)
r.ellipsoid("nose", [0, 155.5, 143.5], [5.2, 3.8, 3.6], turn=[30, 0, 0], parent="muzzle", melt=3)
r.limb("jaw", [0, 157.5, 113, 6.8], [0, 147.5, 136, 3.9], parent="skull", melt=4)
r.ellipsoid("jaw angle", [6.6, 157.5, 112], [3.4, 6.6, 7.5], turn=[35, 0, 0], mirror=True, parent="jaw", melt=4)
r.ellipsoid("cheek", [7.4, 165, 120], [3.0, 2.6, 7.5], turn=[28, -8, 0], mirror=True, parent="skull", melt=4)
r.limb("brow", [8.4, 173.0, 123.5, 2.6], [6.0, 175.4, 109, 4.2], mirror=True, parent="skull", melt=4)
r.ellipsoid("throat pouch", [0, 146, 105], [6.5, 8, 9], turn=[-30, 0, 0], parent="neck", melt=8)
r.ball("eye", [7.6, 169.0, 121.2], 2.5, role="apart", mirror=True, parent="skull")
r.ellipsoid("eye socket", [9.4, 169.0, 122.0], [2.6, 2.7, 3.8], role="cut", mirror=True, parent="skull", melt=3)
r.ellipsoid("nostril", [3.4, 156.0, 146.0], [1.5, 1.2, 2.2], turn=[30, 25, 0], role="cut", mirror=True, parent="nose", melt=1.5)
r.limb("ear root", [9.5, 172.5, 105, 3.2], [16, 175.5, 99, 1.0], mirror=True, parent="skull", scale=[1, 1, 0.9], melt=3)

# --- coil horns: one turn and a quarter, widening outwards (a logarithmic coil) -------------------
horn = []
for i in range(15):
    t = i / 14
    a = math.radians(62 + 450 * t)
    rad = 15.5 * math.exp(-0.95 * t)
    x = 6.5 + 17 * t ** 1.2
    y = 166.5 + rad * math.sin(a)
    z = 99 + rad * math.cos(a) + 1.5 * t
    horn.append([x, y, z, 5.4 * math.exp(-1.25 * t) + 0.25])
r.tube("coil horn", horn, mirror=True, parent="skull", melt=3)

# --- limbs --------------------------------------------------------------------------------------
def toes(owner, heel, forward, spread, size):
    x, y, z = heel
    for n, (side, length) in enumerate([(-1, 0.86), (0, 1.0), (1, 0.82)]):
        tip = [x + side * spread + 0.6, size * 0.55, z + forward * length]
        r.limb(f"{owner} toe {n + 1}", [x + side * spread * 0.45, y, z + 1, size], tip + [size * 0.72], mirror=True, parent=f"{owner} foot", melt=2.5)
        r.form("cone", f"{owner} claw {n + 1}", path=[[tip[0], tip[1] + 0.4, tip[2] + size * 0.2, size * 0.55], [tip[0], 0.4, tip[2] + size * 1.75, 0.3]],
               mirror=True, parent=f"{owner} toe {n + 1}", melt=0.6)

r.ellipsoid("shoulder blade", [17.5, 96, 47], [7, 23, 13], turn=[22, 0, -10], mirror=True, parent="chest", melt=8)
r.limb("fore upper limb", [20, 84, 57, 13.5], [22.5, 60, 46, 9.2], mirror=True, parent="shoulder blade", melt=8)
r.ball("elbow", [23.5, 60, 42], 7.4, mirror=True, parent="fore upper limb", melt=6)
r.limb("fore lower limb", [22.8, 58, 46, 8.8], [22, 30, 54, 6.2], mirror=True, parent="elbow", melt=5)
r.ellipsoid("fore knee", [22, 30.5, 55], [6.8, 6.8, 6.6], mirror=True, parent="fore lower limb", melt=4)
r.limb("fore shank", [22, 28, 54, 5.7], [22, 10, 52, 5.6], mirror=True, parent="fore knee", melt=4)
r.ellipsoid("fore foot", [22, 6.5, 55], [7.6, 6.2, 8.4], mirror=True, parent="fore shank", melt=4)
toes("fore", [22, 5, 57], 12, 5.2, 3.9)

r.ellipsoid("mid shoulder", [17.5, 76, 12], [7, 15, 10], turn=[10, 0, -12], mirror=True, parent="barrel", melt=10)
r.limb("mid upper limb", [18.5, 70, 14, 9.2], [22, 47, 6, 6.4], mirror=True, parent="mid shoulder", melt=7)
r.limb("mid lower limb", [22, 47, 5.5, 6.2], [21, 25, 12, 4.5], mirror=True, parent="mid upper limb", melt=5)
r.ellipsoid("mid knee", [21, 25.5, 12.5], [5.0, 5.2, 5.0], mirror=True, parent="mid lower limb", melt=3)
r.limb("mid shank", [21, 24, 12, 4.1], [21, 8.5, 10, 4.2], mirror=True, parent="mid knee", melt=3)
r.ellipsoid("mid foot", [21, 5.2, 12], [5.6, 5, 6.4], mirror=True, parent="mid shank", melt=3)
toes("mid", [21, 4, 13.5], 9, 3.9, 2.9)

r.ellipsoid("thigh", [17.5, 77, -50], [11, 23, 18], turn=[-28, 0, -6], mirror=True, parent="rump", melt=10)
r.limb("hind upper limb", [19, 72, -46, 14], [23, 53, -31, 9], mirror=True, parent="thigh", melt=8)
r.ball("hind knee", [23.4, 52, -30], 8.4, mirror=True, parent="hind upper limb", melt=5)
r.limb("hind lower limb", [22.8, 51, -33, 8.6], [21, 30, -66, 5], mirror=True, parent="hind knee", melt=6)
r.ellipsoid("hock", [21, 29.5, -68], [4.6, 5.4, 6.2], turn=[-30, 0, 0], mirror=True, parent="hind lower limb", melt=3)
r.limb("hind shank", [21, 28, -66.5, 4.9], [21, 9, -58, 5.2], mirror=True, parent="hock", melt=4)
r.ellipsoid("hind foot", [21, 5.8, -53], [6.6, 5.5, 9.4], mirror=True, parent="hind shank", melt=4)
toes("hind", [21, 4.6, -50], 12, 4.6, 3.5)

# --- tail -----------------------------------------------------------------------------------------
r.tube("tail", [[0, 93, -66, 17], [0, 91, -86, 11.5], [0, 80, -108, 8.2], [0, 64, -128, 6], [0, 54, -148, 4.6], [0, 53, -166, 3.6], [0, 58, -181, 2.6]],
       parent="rump", melt=14)
r.ellipsoid("tail tip", [0, 57, -177], [6.5, 2.2, 15], turn=[18, 0, 0], parent="tail", melt=5)

# --- dorsal plates: a double row of 17, tall over the withers, lost in the hollow, rising again ------
ridge = curve([[0, 113, 72], [0, 122, 52], [0, 122, 34], [0, 107, 12], [0, 96, -8], [0, 98, -28], [0, 110, -46], [0, 110, -66], [0, 100, -86]], 17)
def plate_height(s):
    return 3.2 + 15 * math.exp(-((s - 0.17) / 0.13) ** 2) + 10 * math.exp(-((s - 0.80) / 0.11) ** 2)
for i, (x, y, z) in enumerate(ridge):
    s = i / 16
    h = plate_height(s) * (1 + 0.12 * noise(i))
    w = 1.3 + 0.15 * h
    back, out = -0.16 - 0.14 * noise(i, 2), 0.20 + 0.06 * noise(i, 5)
    side = 3.6 + 0.10 * h + 0.4 * noise(i, 3)
    root = [side, y - 2.6, z]
    def along(t, bow=0.0):
        return [root[0] + out * (h + 3) * t, root[1] + (h + 3) * t, root[2] + back * h * t * (0.5 + 0.7 * t) + bow]
    r.tube(f"dorsal plate {i + 1}", [root + [w], along(0.45) + [w * 1.02], along(0.8) + [w * 0.55], along(1.0) + [max(0.35, w * 0.14)]],
           scale=[0.30 + 0.5 / h, 1, 1], mirror=True, parent="withers" if s < 0.35 else ("barrel" if s < 0.7 else "rump"), melt=1.8)

if len(sys.argv) > 2 and sys.argv[2] == "armature":
    r.do("knit.forms", faces=int(sys.argv[3]), name="skin")
    r.write(sys.argv[1])
    sys.exit()

import hollowback_skin  # noqa: E402
hollowback_skin.sculpt(r)
r.write(sys.argv[1])
