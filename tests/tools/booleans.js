// Volumes and genus of union, difference and intersection of pairs of solids, worked out by manifold-3d.
// argv: a JSON file [{"a": {"points": [...], "triangles": [...]}, "b": ...}]
import('manifold-3d').then(m => m.default()).then(w => {
  w.setup();
  const solid = s => new w.Manifold(new w.Mesh({
    numProp: 3, vertProperties: new Float32Array(s.points), triVerts: new Uint32Array(s.triangles)}));
  const pairs = JSON.parse(require('fs').readFileSync(process.argv[2]));
  console.log(JSON.stringify(pairs.map(p => {
    const a = solid(p.a), b = solid(p.b);
    return [a.add(b), a.subtract(b), a.intersect(b)].map(r => [r.getProperties().volume, r.genus()]);
  })));
});
