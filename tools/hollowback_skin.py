"""What is sculpted on the Hollowback's skin: main strokes, then layers of detail."""
import math

from sample_recipe import curve, noise


def ring(centre, radius, axis, a0, a1, n, flat=1.0):
    """Points on an arc about an axis in the middle plane; angle 0 looks to the left flank, 90 forwards-down."""
    cx, cy, cz = centre
    ay, az = axis  # unit, along the neck or limb
    out = []
    for i in range(n):
        a = math.radians(a0 + (a1 - a0) * i / (n - 1))
        x = radius * math.cos(a) * flat
        f = radius * math.sin(a)
        out.append([cx + x, cy - f * az, cz + f * ay])
    return out


def sculpt(r):
    r.do("knit.forms", faces=126000, name="Hollowback")
    muscles(r)
    head(r)
    r.do("piece.refine")
    layers(r)


def line(points, n=14):
    return curve(points, n)


def muscles(r):
    # Shoulder blade ridge and the hollow behind it; the great muscle over the fore limb.
    r.stroke("raise", line([[22, 112, 40], [24, 98, 48], [25, 84, 56]]), size=7, strength=0.55)
    r.stroke("raise", line([[30, 88, 60], [31, 76, 56], [28, 64, 50]]), size=8, strength=0.6, reverse=False)
    r.stroke("crease", line([[26, 106, 30], [33, 92, 32], [34, 78, 34]]), size=7, strength=0.55)
    r.stroke("crease", line([[20, 104, 64], [25, 90, 70], [25, 76, 68]]), size=6, strength=0.4)
    # Ribs: soft, between fore and hind limbs, fading downwards.
    for k in range(6):
        z = 2 - 7.5 * k
        r.stroke("raise", [[26, 96 - 1.2 * k, z - 2, 0.35], [28, 86, z + 1, 0.9], [27, 74, z + 4, 0.7], [24, 66, z + 7, 0.2]], size=4.2, strength=0.42)
    # Hip: point of the hip, the long muscle of the thigh, the hollow of the flank.
    r.stroke("raise", line([[18, 108, -42], [22, 100, -48], [24, 88, -54]]), size=7, strength=0.5)
    r.stroke("crease", line([[24, 92, -30], [26, 80, -34], [25, 66, -34]]), size=8, strength=0.55)
    r.stroke("raise", line([[28, 84, -56], [30, 70, -48], [28, 58, -38]]), size=8, strength=0.55)
    r.stroke("crease", line([[22, 84, -72], [24, 68, -66], [22, 54, -52]]), size=6, strength=0.4)
    # Spine runs on as a soft keel along the tail.
    r.stroke("raise", line([[0, 102, -84], [0, 88, -106], [0, 72, -126], [0, 60, -146]], 24), size=4, strength=0.35)
    # Tendons: back of each shank.
    for x, z, top, low in ((22, 48, 24, 12), (21, 7, 22, 11), (21, -66, 27, 13)):
        r.stroke("crease", line([[x + 5, top, z + 2], [x + 5, (top + low) / 2, z + 2], [x + 5, low, z + 3]]), size=3, strength=0.5)
    # Knee caps and hocks: planes on the front.
    for at in ([22, 32, 62], [21, 27, 18], [24, 53, -22]):
        r.stroke("raise", [at, [at[0], at[1] - 3, at[2]]], size=4, strength=0.45)
    # Neck: two long muscles and the windpipe between them.
    r.stroke("raise", line([[14, 104, 78], [11, 118, 92], [8.5, 136, 98], [8, 152, 98]], 22), size=5, strength=0.45)
    r.stroke("crease", line([[9, 100, 92], [8, 112, 102], [6.5, 130, 104], [6, 146, 106]], 22), size=4.5, strength=0.5)
    r.stroke("raise", line([[0, 100, 96], [0, 112, 108], [0, 130, 107], [0, 142, 110]], 22), size=5, strength=0.45)
    # Belly fold from mid limb to stifle.
    r.stroke("crease", line([[24, 52, 2], [27, 50, -12], [28, 52, -24]]), size=5, strength=0.5)
    r.stroke("smooth", line([[27, 92, 10], [27, 80, -10], [26, 70, 20]]), size=12, strength=0.35)


def head(r):
    # Mouth line from nose to cheek, lips above and below it.
    mouth = [[1.5, 151.6, 145], [4.6, 151.2, 139], [6.0, 153.2, 131], [7.2, 156.4, 123], [8.0, 159.2, 117]]
    r.stroke("crease", line(mouth, 26), size=2.4, strength=0.85)
    r.stroke("crease", line(mouth, 26), size=1.5, strength=0.8)
    r.stroke("raise", line([[p[0] + 0.3, p[1] + 1.8, p[2] + 0.4] for p in mouth], 22), size=1.8, strength=0.35)
    r.stroke("raise", line([[p[0] + 0.2, p[1] - 1.9, p[2] - 0.4] for p in mouth], 22), size=1.8, strength=0.35)
    # Brow: a heavy shelf, sharp below, soft above; heavy upper lid; bag under the eye.
    r.stroke("raise", line([[7.0, 172.6, 126.5], [9.6, 173.2, 122], [9.8, 172.6, 117], [8.6, 171, 112]], 18), size=2.6, strength=0.75)
    r.stroke("crease", line([[8.6, 170.9, 125.2], [10.4, 171.2, 121.5], [10, 170, 117]], 14), size=1.6, strength=0.6)
    r.stroke("raise", line([[8.2, 166.4, 125], [9.8, 165.8, 121.5], [9.4, 166.4, 117.5]], 14), size=1.5, strength=0.6)
    # Cheek bone to the ear, hollow of the temple, bridge of the nose.
    r.stroke("raise", line([[8.6, 164.6, 124], [9.8, 164, 118], [10.4, 165, 110]], 16), size=2.6, strength=0.5)
    r.stroke("raise", line([[9, 168, 112], [9.4, 169, 108]], 6), size=3.2, strength=0.5, reverse=True)
    r.stroke("raise", line([[0, 175, 122], [0, 170, 131], [0, 163.5, 139]], 16), size=3, strength=0.45)
    r.stroke("crease", line([[4.6, 171.5, 126], [5.2, 166.5, 132], [5, 161, 138]], 16), size=2.6, strength=0.45)
    # Corner of the jaw and the hollow under it.
    r.stroke("raise", line([[7.6, 152.6, 121], [8.6, 155, 113], [8.4, 160, 107]], 14), size=2.8, strength=0.5)
    r.stroke("raise", line([[3.6, 157.6, 146], [5, 158.4, 144], [5, 157, 141.6]], 8), size=1.4, strength=0.6)


def layers(r):
    # Scales along the flank, free edges to the tail, smaller towards neck and belly.
    r.do("layer.add", name="Flank scales")
    rows = [(104, 40, -66, 10.5), (93, 34, -72, 11.5), (82, 30, -66, 11), (71.5, 26, -24, 9.5)]
    for k, (y, z0, z1, size) in enumerate(rows):
        points = [[34, y + 1.2 * math.sin(z / 17.0), z] for z in range(z0, z1, -3)]
        r.stroke("stamp", points, layer="Flank scales", stamp="scales", size=size, depth=1.25, strength=0.55, spacing=1.25, turn=90,
                 falloff="plateau", randomTurn=0.02, seed=10 + k, pressureToStrength=True)
    r.stroke("stamp", [[30, 92 - 0.5 * k, -74 - 3 * k] for k in range(8)] , layer="Flank scales", stamp="scales", size=8, depth=1.0, strength=0.5, spacing=1.25,
             turn=90, falloff="plateau", seed=31)
    tail = line([[9, 92, -84], [7, 80, -108], [5.5, 65, -128], [4.6, 54, -148], [4, 53, -164]], 40)
    r.stroke("stamp", tail, layer="Flank scales", stamp="scales", size=6, depth=0.8, strength=0.5, spacing=1.25, turn=75, falloff="plateau", seed=37)
    neck = line([[18, 106, 74], [14, 118, 90], [10, 136, 94], [9, 152, 92]], 40)
    r.stroke("stamp", neck, layer="Flank scales", stamp="scales", size=7, depth=0.7, strength=0.45, spacing=1.25, turn=30, falloff="plateau", seed=41)
    shoulder = line([[26, 104, 52], [30, 90, 58], [30, 76, 56]], 30)
    r.stroke("stamp", shoulder, layer="Flank scales", stamp="scales", size=8, depth=0.9, strength=0.45, spacing=1.25, turn=60, falloff="plateau", seed=43)

    # Folds: throat, armpit, groin, elbows and knees.
    r.do("layer.add", name="Folds")
    for k in range(9):
        t = k / 8
        y, z, rad = 112 + 34 * t, 96 + 3 * math.sin(3 * t), 11.5 - 2.0 * t
        pts = [[rad * math.sin(a) * 1.1, y - 3.5 * math.cos(a) + 0.8 * noise(k, i), z + rad * math.cos(a)] for i, a in
               enumerate([math.radians(x) for x in range(0, 74, 9)])]
        pts = [p + [1 - 0.75 * i / (len(pts) - 1)] for i, p in enumerate(pts)]
        r.stroke("crease", pts, layer="Folds", size=2.0 + 0.5 * noise(k, 9), strength=0.55)
    for k in range(4):
        r.stroke("crease", line([[22, 72 - 3 * k, 76 - k], [29, 70 - 3.4 * k, 70 - k], [36, 70 - 3.2 * k, 60 - k]], 16), layer="Folds", size=2.2, strength=0.5)
        r.stroke("crease", line([[22, 62 - 2.6 * k, -14 + k], [32, 60 - 2.6 * k, -20 + k], [36, 59 - 2.4 * k, -32 + k]], 16), layer="Folds", size=2.0, strength=0.5)
        r.stroke("crease", line([[17, 34 - 2.2 * k, 57], [22, 33 - 2.2 * k, 61.5], [27, 34 - 2.2 * k, 57]], 12), layer="Folds", size=1.5, strength=0.5)
        r.stroke("crease", line([[17, 28.5 - 1.6 * k, 15], [21, 28 - 1.6 * k, 18], [25, 28.5 - 1.6 * k, 15]], 12), layer="Folds", size=1.2, strength=0.5)
    for k in range(5):
        r.stroke("crease", line([[11, 46, 30 - 12 * k], [20, 50, 30 - 12 * k], [30, 62, 31 - 12 * k]], 16), layer="Folds", size=2.4, strength=0.4)

    # Growth rings on the horns, shields along the ridge.
    r.do("layer.add", name="Rings and shields")
    for k in range(26):
        t = 0.04 + 0.86 * k / 25
        a = math.radians(62 + 450 * t)
        rad, x = 15.5 * math.exp(-0.95 * t), 6.5 + 17 * t ** 1.2
        thick = 5.4 * math.exp(-1.25 * t) + 0.25
        cy, cz = 166.5 + rad * math.sin(a), 99 + rad * math.cos(a) + 1.5 * t
        pts = []
        for b in range(-100, 101, 25):
            c, s = math.cos(math.radians(b)), math.sin(math.radians(b))
            pts.append([x + thick * s, cy + thick * c * math.sin(a), cz + thick * c * math.cos(a)])
        r.stroke("crease", pts, layer="Rings and shields", size=max(0.8, 0.34 * thick), strength=0.75)
    for k in range(9):
        z = 26 - 8 * k
        r.stroke("stamp", [[5, 120, z]], layer="Rings and shields", stamp="ridges", size=5, depth=0.5, strength=0.5, turn=90, falloff="plateau", seed=60 + k)

    # Pebbled muzzle, pores and fine wrinkles round the eye.
    r.do("layer.add", name="Face")
    muzzle = line([[6, 163, 127], [6.4, 159, 134], [5.4, 156.5, 140]], 12)
    r.stroke("stamp", muzzle, layer="Face", stamp="pebbles", size=4.2, depth=0.34, strength=0.6, spacing=1.1, randomTurn=1, falloff="plateau", seed=71)
    r.stroke("stamp", line([[2, 168, 132], [2, 163, 138], [2, 160, 143]], 10), layer="Face", stamp="pebbles", size=3.6, depth=0.3, strength=0.6, spacing=1.1, randomTurn=1, falloff="plateau", seed=73)
    r.stroke("stamp", line([[5, 152, 130], [4.6, 150, 135]], 8), layer="Face", stamp="pebbles", size=3.6, depth=0.3, strength=0.6, spacing=1.1, randomTurn=1, falloff="plateau", seed=74)
    for k in range(6):
        a = math.radians(-70 + 28 * k)
        p = [9.6, 169 + 4.2 * math.sin(a), 120.4 - 4.6 * math.cos(a)]
        q = [9.2, 169 + 6.8 * math.sin(a), 120.4 - 8.0 * math.cos(a)]
        r.stroke("crease", line([p, [(p[i] + q[i]) / 2 + (0.4 if i == 1 else 0) for i in range(3)], q], 8), layer="Face", size=0.9, strength=0.6)

    # A healed scar over the left brow, on that side only.
    r.do("layer.add", name="Brow scar")
    r.stroke("stamp", [[9.5, 174, 120], [9.5, 178.5, 124.5]], layer="Brow scar", stamp="scar", size=6, depth=0.9, strength=0.9, drag=True, mirror=False, falloff="plateau")
