// A marble waits at a gate, runs down a curved rail and strikes a brass bell, which swings; 120 fps.
import { brass, marbleMaterial, solid, woodMaterial, workshop } from './workshop.js';

export const about = { name: 'marble-bell', fps: 120, frames: 420, seed: 11 };

const GRAVITY = 98.1; // dm/s²
const RADIUS = 0.19;
const RELEASE_SECONDS = 0.28;

export function build({ width, height }) {
  const { THREE, renderer, scene, camera } = workshop({ width, height, seed: about.seed });
  const pine = woodMaterial(21, '#dcb27a', '#9a6a38', { rings: 6 });
  const walnut = woodMaterial(22, '#7b5232', '#3a2413', { rings: 7 });

  const curve = new THREE.CatmullRomCurve3(
    [
      [-3.5, 2.05],
      [-2.7, 1.86],
      [-1.7, 1.45],
      [-0.6, 1.06],
      [0.35, 0.9],
      [1.1, 0.96],
      [1.62, 1.06],
    ].map(([x, y]) => new THREE.Vector3(x, y, 0)),
    false,
    'centripetal',
  );
  const length = curve.getLength();

  // Two round rods carry the marble; wooden posts carry the rods.
  for (const side of [-1, 1]) {
    const rod = new THREE.CatmullRomCurve3(
      curve.getSpacedPoints(60).map((p) => p.clone().add(new THREE.Vector3(0, -RADIUS - 0.02, side * 0.12))),
    );
    solid(scene, new THREE.TubeGeometry(rod, 160, 0.045, 12), pine);
  }
  for (const u of [0.03, 0.27, 0.52, 0.77]) {
    const p = curve.getPointAt(u);
    const h = p.y - RADIUS - 0.05;
    solid(scene, new THREE.BoxGeometry(0.16, h, 0.42), walnut, (m) => m.position.set(p.x, h / 2, 0));
    solid(scene, new THREE.CylinderGeometry(0.28, 0.32, 0.12, 32), walnut, (m) => m.position.set(p.x, 0.06, 0));
  }
  const gate = solid(scene, new THREE.BoxGeometry(0.05, 0.5, 0.4), walnut);
  const gateAt = curve.getPointAt(0.06);
  for (const z of [-0.26, 0.26])
    solid(scene, new THREE.BoxGeometry(0.09, 1.15, 0.07), pine, (m) =>
      m.position.set(gateAt.x + 0.25, gateAt.y + 0.22, z),
    );
  solid(scene, new THREE.BoxGeometry(0.09, 0.07, 0.6), pine, (m) => m.position.set(gateAt.x + 0.25, gateAt.y + 0.8, 0));

  // The bell hangs from an arch, its pivot above the rail's end.
  const bellX = 2.02;
  const pivotY = 2.05;
  for (const z of [-0.75, 0.75])
    solid(scene, new THREE.BoxGeometry(0.17, 2.3, 0.17), walnut, (m) => m.position.set(bellX, 1.15, z));
  solid(scene, new THREE.BoxGeometry(0.2, 0.18, 1.85), walnut, (m) => m.position.set(bellX, 2.32, 0));
  solid(scene, new THREE.BoxGeometry(1.0, 0.12, 2.0), walnut, (m) => m.position.set(bellX, 0.06, 0));
  const bell = new THREE.Group();
  bell.position.set(bellX, pivotY + 0.18, 0);
  const profile = [
    [0.0, -0.22], [0.1, -0.22], [0.17, -0.27], [0.22, -0.4], [0.25, -0.62], [0.29, -0.85], [0.37, -1.06], [0.46, -1.17], [0.47, -1.22], [0.43, -1.22], [0.34, -1.08], [0.26, -0.86], [0.21, -0.6], [0.0, -0.3],
  ].map(([x, y]) => new THREE.Vector2(x, y)); // prettier-ignore
  solid(bell, new THREE.LatheGeometry(profile, 72), brass());
  bell.children[0].material.side = THREE.DoubleSide;
  solid(bell, new THREE.CylinderGeometry(0.03, 0.03, 0.26, 12), walnut, (m) => m.position.set(0, -0.1, 0));
  scene.add(bell);

  // A few finished marbles in a dish and a ruler make the bench lived in.
  solid(scene, new THREE.LatheGeometry([[0, 0.03], [0.5, 0.03], [0.78, 0.22], [0.82, 0.22], [0.55, 0], [0, 0]].map(([x, y]) => new THREE.Vector2(x, y)), 48), pine, (m) => { m.position.set(-0.5, 0, 1.5); m.material.side = THREE.DoubleSide; }); // prettier-ignore
  [['#2d6b73', '#d8e6df', -0.68, 1.45], ['#b5482f', '#f0d9b0', -0.3, 1.62], ['#d0a03a', '#f7efd8', -0.42, 1.3]].forEach(([a, b, x, z], i) =>
    solid(scene, new THREE.SphereGeometry(0.16, 48, 32), marbleMaterial(40 + i, a, b), (m) => m.position.set(x, 0.2, z))); // prettier-ignore
  const marble = solid(scene, new THREE.SphereGeometry(RADIUS, 64, 48), marbleMaterial(31, '#e9efe9', '#12707a'));

  const track = simulate(curve, length, bellX - 0.43 - RADIUS);
  const turn = new THREE.Quaternion();
  const axis = new THREE.Vector3(0, 0, -1);

  return {
    canvas: renderer.domElement,
    events: track.hits,
    draw(frame) {
      const state = track.states[frame];
      const p = curve.getPointAt(Math.min(1, Math.max(0, state.along / length)));
      marble.position.copy(p);
      marble.quaternion.copy(turn.setFromAxisAngle(axis, state.along / RADIUS));
      gate.position.set(gateAt.x + 0.25, gateAt.y + 0.02 + state.gate * 0.44, 0);
      bell.rotation.z = state.swing;
      const t = frame / about.fps;
      camera.position.set(-0.45 + t * 0.16, 1.95 + Math.sin(t * 0.7) * 0.02, 6.9 - t * 0.1);
      camera.lookAt(-0.5 + t * 0.14, 1.02, 0);
      renderer.render(scene, camera);
    },
  };
}

/** A rolling ball on a curve: a = 5/7 g sin(slope) − rolling friction; the bell is a damped pendulum that takes its blows. */
function simulate(curve, length, strikeX) {
  const steps = 40;
  const dt = 1 / (about.fps * steps);
  const strikeAt = (() => {
    for (let u = 0; u <= 1; u += 0.0005) if (curve.getPointAt(u).x >= strikeX) return u * length;
    return length;
  })();
  let along = 0.06 * length;
  let speed = 0;
  let swing = 0;
  let swingSpeed = 0;
  const states = [];
  const hits = [];
  for (let frame = 0; frame < about.frames; frame++) {
    const time = frame / about.fps;
    states.push({ along, swing, gate: Math.min(1, Math.max(0, (time - RELEASE_SECONDS + 0.06) / 0.09)) });
    for (let i = 0; i < steps; i++) {
      const now = time + i * dt;
      if (now >= RELEASE_SECONDS) {
        const tangent = curve.getTangentAt(Math.min(1, Math.max(0, along / length)));
        const rolling = (5 / 7) * 0.34 * GRAVITY * -tangent.y - Math.sign(speed) * 0.28;
        speed += rolling * dt;
        along += speed * dt;
        const bellFace = strikeAt + Math.sin(Math.max(0, swing)) * 1.0;
        if (along >= bellFace && speed > swingSpeed) {
          if (speed > 0.25)
            hits.push({ frame: Math.round(now * about.fps), seconds: now, strength: Math.min(1, speed / 8) });
          swingSpeed += speed * 0.24;
          speed = -0.42 * speed;
          along = bellFace;
        }
      }
      swingSpeed += (-62 * swing - 0.9 * swingSpeed) * dt;
      swing += swingSpeed * dt;
    }
  }
  return { states, hits };
}
