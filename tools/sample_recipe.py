"""Shared helpers of the sample recipes: each sample is a list of commands written as open text."""
import json
import math


class Recipe:
    def __init__(self):
        self.commands = []

    def do(self, command, **params):
        self.commands.append({"do": command, **params})

    def form(self, kind, name, **params):
        self.do("form.add", kind=kind, name=name, **{k: rounded(v) for k, v in params.items()})

    def ball(self, name, at, radius, **more):
        self.form("ball", name, at=at, radius=radius, **more)

    def ellipsoid(self, name, at, radii, **more):
        self.form("ellipsoid", name, at=at, radii=radii, **more)

    def limb(self, name, a, b, **more):
        self.form("limb", name, path=[a, b], **more)

    def tube(self, name, path, **more):
        self.form("tube", name, path=path, **more)

    def stroke(self, tool, points, **params):
        """A stroke over surface points nearest to the given ones: [x, y, z] or [x, y, z, pressure]."""
        self.do("sculpt.stroke", tool=tool, samples=[rounded(p) for p in points], **{k: rounded(v) for k, v in params.items()})

    def write(self, path):
        rows = ",\n".join(json.dumps(c, separators=(",", ":")) for c in self.commands)
        with open(path, "w") as f:
            f.write('{\n"format": "bonemoss-recipe",\n"version": 1,\n"commands": [\n' + rows + "\n]\n}\n")


def rounded(v):
    if isinstance(v, float):
        return round(v, 3)
    if isinstance(v, (list, tuple)):
        return [rounded(x) for x in v]
    return v


def curve(points, n):
    """n points along a Catmull-Rom curve through rows of equal length."""
    out = []
    for i in range(n):
        s = i / (n - 1) * (len(points) - 1)
        k = min(int(s), len(points) - 2)
        t = s - k
        p = [points[max(0, min(len(points) - 1, k + d))] for d in (-1, 0, 1, 2)]
        out.append([0.5 * (2 * b + (c - a) * t + (2 * a - 5 * b + 4 * c - d) * t * t + (3 * b - a - 3 * c + d) * t ** 3)
                    for a, b, c, d in zip(*p)])
    return out


def noise(i, k=0):
    """A fixed pseudo-random number from -1 to 1."""
    x = math.sin(i * 127.1 + k * 311.7) * 43758.5453
    return (x - math.floor(x)) * 2 - 1
