// Volumes and genus of solids, worked out by manifold-3d: of union, difference and intersection of pairs, or of the union of many.
// argv: a JSON file [{"a": {"points": [...], "triangles": [...]}, "b": ...} or [{"points": ...}, ...]]
import('manifold-3d').then(m => m.default()).then(w => {
  w.setup();
  const solid = s => new w.Manifold(new w.Mesh({
    numProp: 3, vertProperties: new Float32Array(s.points), triVerts: new Uint32Array(s.triangles)}));
  const told = r => [r.getProperties().volume, r.genus()];
  const jobs = JSON.parse(require('fs').readFileSync(process.argv[2]));
  console.log(JSON.stringify(jobs.map(p => {
    if (Array.isArray(p)) {
      const start = Date.now(), all = told(p.map(solid).reduce((a, b) => a.add(b)));
      return [...all, (Date.now() - start) / 1000];
    }
    const a = solid(p.a), b = solid(p.b);
    return [a.add(b), a.subtract(b), a.intersect(b)].map(told);
  })));
});
