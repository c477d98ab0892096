// A row of wooden dominoes on an S-shaped path goes down one after another; the camera follows the wave; 60 fps.
import { marbleMaterial, seeded, solid, woodMaterial, workshop } from './workshop.js';

export const about = { name: 'dominoes', fps: 60, frames: 300, seed: 51 };

const COUNT = 28;
const TALL = 0.95;
const WIDE = 0.48;
const THICK = 0.15;
const SPACING = 0.4;
const START_SECONDS = 0.55;

export function build({ width, height }) {
  const { THREE, renderer, scene, camera } = workshop({ width, height, seed: about.seed });
  const random = seeded(about.seed);
  const path = new THREE.CatmullRomCurve3(
    [[-5.6, 0.9], [-4.2, 0.2], [-2.4, -0.5], [-0.6, -0.1], [1.0, 0.8], [2.7, 1.0], [4.2, 0.3], [5.8, -0.6]].map(([x, z]) => new THREE.Vector3(x, 0, z)), // prettier-ignore
  );
  const total = path.getLength();
  const stains = [
    ['#e2bd85', '#a8763f'],
    ['#2f7f86', '#1b4f55'],
    ['#c8553a', '#7d2d1c'],
    ['#d9a441', '#94661c'],
    ['#e9dcc0', '#b59a6c'],
  ].map(([light, dark], i) => woodMaterial(60 + i, light, dark, { rings: 5, size: 512 }));

  const shape = new THREE.Shape();
  const r = 0.04;
  const [w, h] = [WIDE / 2, TALL];
  shape.moveTo(-w + r, 0).lineTo(w - r, 0).quadraticCurveTo(w, 0, w, r).lineTo(w, h - r).quadraticCurveTo(w, h, w - r, h); // prettier-ignore
  shape
    .lineTo(-w + r, h)
    .quadraticCurveTo(-w, h, -w, h - r)
    .lineTo(-w, r)
    .quadraticCurveTo(-w, 0, -w + r, 0);
  const geometry = new THREE.ExtrudeGeometry(shape, {
    depth: THICK - 0.03,
    bevelEnabled: true,
    bevelSize: 0.015,
    bevelThickness: 0.015,
    bevelSegments: 2,
  });
  // The hinge is the lower front edge: the edge it turns over when it falls along its path.
  geometry.translate(0, 0, -THICK + 0.015);
  const pieces = [];
  for (let i = 0; i < COUNT; i++) {
    const u = (0.6 + i * SPACING) / total;
    const hinge = new THREE.Group();
    hinge.position.copy(path.getPointAt(u));
    const tangent = path.getTangentAt(u);
    hinge.rotation.y = Math.atan2(tangent.x, tangent.z);
    const tilt = new THREE.Group();
    const mesh = solid(tilt, geometry, stains[Math.floor(random() * stains.length)]);
    mesh.material.map.repeat.set(0.6, 0.4);
    hinge.add(tilt);
    scene.add(hinge);
    pieces.push(tilt);
  }
  const marble = solid(scene, new THREE.SphereGeometry(0.3, 64, 48), marbleMaterial(71, '#2b3a42', '#e8c15a'));
  const first = path.getPointAt(0.6 / total);
  const direction = path.getTangentAt(0.6 / total);
  const { angles, events } = simulate();

  return {
    canvas: renderer.domElement,
    events,
    draw(frame) {
      const t = frame / about.fps;
      pieces.forEach((tilt, i) => (tilt.rotation.x = angles[frame][i]));
      const gap = Math.max(0, START_SECONDS - t) * 2.6;
      const past = Math.max(0, t - START_SECONDS);
      const roll = -gap - 0.3 - THICK + Math.min(0.12, past * 0.6);
      marble.position.copy(first).addScaledVector(direction, roll).setY(0.3);
      marble.rotation.set(0, Math.atan2(direction.x, direction.z), 0);
      marble.rotateX(roll / 0.3);
      const wave = -4.4 + Math.min(8.4, Math.max(0, t - START_SECONDS) * 2.5);
      camera.position.set(wave * 0.62 + 0.4, 2.5, 6.2);
      camera.lookAt(wave * 0.72, 0.35, 0);
      renderer.render(scene, camera);
    },
  };
}

/** Each domino is a falling rod, φ″ = 3g/2h · sin φ; it strikes the next when its top crosses the gap and then leans on it. */
function simulate() {
  const gravity = 98.1 * 0.5;
  const steps = 60;
  const dt = 1 / (about.fps * steps);
  const angle = new Float64Array(COUNT);
  const speed = new Float64Array(COUNT);
  const struck = new Uint8Array(COUNT);
  const contact = Math.asin((SPACING - THICK) / TALL);
  const angles = [];
  const events = [];
  for (let frame = 0; frame < about.frames; frame++) {
    angles.push(Array.from(angle));
    for (let k = 0; k < steps; k++) {
      const now = (frame + k / steps) / about.fps;
      if (!struck[0] && now >= START_SECONDS) {
        struck[0] = 1;
        speed[0] = 1.6;
      }
      for (let i = 0; i < COUNT; i++) {
        if (!struck[i]) continue;
        speed[i] += ((3 * gravity) / (2 * TALL)) * Math.sin(angle[i] + 0.02) * dt;
        angle[i] += speed[i] * dt;
        const next = i + 1;
        if (next === COUNT) {
          if (angle[i] > Math.PI / 2) [angle[i], speed[i]] = [Math.PI / 2, 0];
          continue;
        }
        if (!struck[next] && angle[i] >= contact) {
          struck[next] = 1;
          speed[next] = speed[i] * 0.55;
          speed[i] *= 0.5;
          events.push({ frame: Math.round(now * about.fps), seconds: now, strength: 0.5 });
        }
        const limit =
          angle[next] + Math.asin(Math.max(-1, Math.min(1, (SPACING * Math.cos(angle[next]) - THICK) / TALL)));
        if (angle[i] > limit) {
          angle[i] = limit;
          speed[i] = Math.min(speed[i], speed[next]);
        }
      }
    }
  }
  return { angles, events };
}
