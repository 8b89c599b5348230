// How long the page takes for one movement of the brush on a weight map of 1024 texels, the drawing not counted.
// Run by bench/models.py: node strokes.mjs BRUSH.js
const { LiveStroke } = await import(process.argv[2]);
const side = 1024;
const told = [];
for (const texels of [16, 64, 128]) {
  const brush = { radius: texels, strength: 0.8, falloff: 0.5, mirror: "", wrap: false };
  const stroke = new LiveStroke(new Uint8Array(side * side).fill(128), side, side, brush);
  const times = [];
  for (let at = 0; at < 200; at++) {
    const place = [150 + at * 3.6, 512 + 200 * Math.sin(at / 20), 1];
    const before = performance.now();
    if (stroke.add(place)) times.push(performance.now() - before);
  }
  times.sort((one, other) => one - other);
  told.push({ texels, milliseconds: times[Math.floor(times.length * 0.95)] });
}
console.log(JSON.stringify(told));
