#!/usr/bin/env python3
"""Writes the Reed Lurcher: an eel-necked wader on long legs, built to be posed."""
import sys

from sample_recipe import Recipe

r = Recipe()
r.do("creature.height", mm=150)
r.tube("trunk", [[0, 78, 24, 13], [0, 80, 8, 17], [0, 79, -12, 16], [0, 74, -32, 10]], scale=[0.86, 1, 1], melt=8)
r.ellipsoid("keel", [0, 67, 12], [7, 10, 15], turn=[-14, 0, 0], parent="trunk", melt=9)
r.ellipsoid("back ridge", [0, 93, 2], [5, 6, 18], turn=[8, 0, 0], parent="trunk", melt=8)
r.tube("neck", [[0, 82, 24, 12], [0, 92, 42, 9], [0, 112, 46, 7.2], [0, 126, 34, 6.6], [0, 140, 34, 6.8], [0, 146, 48, 7]], parent="trunk", melt=10)
r.ellipsoid("skull", [0, 145, 54], [6.6, 6, 10], turn=[8, 0, 0], parent="neck", melt=5)
r.limb("upper bill", [0, 144.5, 58, 5], [0, 139, 86, 1.6], parent="skull", melt=4, scale=[0.95, 0.8, 1])
r.limb("lower bill", [0, 140.4, 57, 3.8], [0, 136.4, 84, 1.1], parent="skull", melt=1.6, scale=[0.95, 0.8, 1])
r.ball("eye", [5.4, 147.8, 58.5], 2.2, role="apart", mirror=True, parent="skull")
r.ellipsoid("eye socket", [6.6, 147.8, 59], [1.8, 2.3, 2.8], role="cut", mirror=True, parent="skull", melt=2)
r.limb("brow", [5.6, 150.6, 61, 1.2], [5.4, 151, 53, 1.8], mirror=True, parent="skull", melt=2.5)
r.tube("crest", [[0, 150.5, 50, 3], [0, 154, 40, 2.6], [0, 152, 28, 0.7]], scale=[0.5, 1, 1], parent="skull", melt=2.5)
r.ellipsoid("gill cover", [6, 143, 46], [2.2, 4.4, 6], turn=[20, 10, 0], mirror=True, parent="neck", melt=2.5)
r.tube("wing arm", [[11, 84, 18, 7], [16, 80, 4, 5.2], [15, 74, -14, 4], [12, 70, -30, 1.2]], scale=[0.7, 1.1, 1], mirror=True, parent="trunk", melt=5)
r.ellipsoid("thigh", [10.5, 70, -2], [7.5, 14, 9], turn=[-12, 0, -4], mirror=True, parent="trunk", melt=8)
r.limb("upper limb", [11.5, 66, 0, 7], [14, 46, 10, 4], mirror=True, parent="thigh", melt=5)
r.ball("knee", [14, 45.4, 10.5], 4.4, mirror=True, parent="upper limb", melt=3)
r.limb("shank", [14, 45, 9.6, 3.6], [14, 22, -7, 2.7], mirror=True, parent="knee", melt=3)
r.ball("hock", [14, 21.4, -7.4], 3.5, mirror=True, parent="shank", melt=2)
r.limb("foot shank", [14, 21, -6.6, 2.7], [14, 3.4, 1, 2.6], mirror=True, parent="hock", melt=2)
for k, (dx, dz, reach) in enumerate(((-0.55, 1.0, 22), (0.05, 1.0, 26), (0.62, 0.9, 22), (-0.1, -1.0, 12))):
    end = [14 + dx * reach, 1.1, 1 + dz * reach]
    mid = [14 + dx * reach * 0.5, 2.6, 1 + dz * reach * 0.5]
    r.tube(f"toe {k + 1}", [[14, 2.8, 1, 2.4], mid + [1.8], end + [0.9]], mirror=True, parent="foot shank", melt=2)
r.tube("tail", [[0, 75, -30, 9], [0, 69, -46, 6], [0, 58, -62, 4.2], [0, 52, -80, 3], [0, 55, -98, 1.6]], parent="trunk", melt=8)
r.tube("tail fin", [[0, 60, -58, 4], [0, 54, -76, 7], [0, 56, -94, 5.5], [0, 60, -106, 1]], scale=[0.16, 1, 1], parent="tail", melt=2)
r.do("knit.forms", faces=60000, name="Reed Lurcher")
r.write(sys.argv[1])
