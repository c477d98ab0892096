// A brass pendulum swings before the marble clock and throws its shadow on the board behind; 240 fps.
import { brass, marbleMaterial, solid, woodMaterial, workshop } from './workshop.js';

export const about = { name: 'pendulum', fps: 240, frames: 336, seed: 351 };
const PERIOD = 1.12;
const SWING = 0.62;

export function build({ width, height }) {
  const { THREE, renderer, scene, camera } = workshop({ width, height, seed: about.seed });
  const beech = woodMaterial(361, '#e0b98a', '#a3744a', { rings: 6 });
  const walnut = woodMaterial(362, '#7b5232', '#3a2413', { rings: 7 });
  solid(scene, new THREE.BoxGeometry(5.2, 3.6, 0.2), beech, (m) => m.position.set(0, 2, -1.1));
  for (const x of [-2, 2]) solid(scene, new THREE.BoxGeometry(0.3, 3.8, 0.3), walnut, (m) => m.position.set(x, 1.9, 0));
  solid(scene, new THREE.BoxGeometry(4.6, 0.35, 0.5), walnut, (m) => m.position.set(0, 3.75, 0));
  for (let i = -4; i <= 4; i++) solid(scene, new THREE.BoxGeometry(0.04, i % 2 ? 0.18 : 0.3, 0.05), walnut, (m) => m.position.set(i * 0.36, 0.55 + 0.06 * i * i * 0.25, -0.95)); // prettier-ignore
  const arm = new THREE.Group();
  arm.position.set(0, 3.6, 0);
  solid(arm, new THREE.CylinderGeometry(0.03, 0.03, 2.6, 16), brass(), (m) => m.position.set(0, -1.3, 0));
  solid(arm, new THREE.SphereGeometry(0.34, 48, 32), brass(), (m) => m.position.set(0, -2.7, 0));
  solid(arm, new THREE.SphereGeometry(0.14, 32, 20), marbleMaterial(371, '#2f7f86', '#f4efe0'), (m) =>
    m.position.set(0, -2.7, 0.32),
  );
  scene.add(arm);
  // It passes the middle on these frames.
  const middles = [0.25, 0.75, 1.25].map((n) => Math.round(n * PERIOD * about.fps)).filter((f) => f < about.frames);
  return {
    canvas: renderer.domElement,
    events: middles.map((frame) => ({ frame, seconds: frame / about.fps, strength: 0.3 })),
    draw(frame) {
      arm.rotation.z = SWING * Math.cos((2 * Math.PI * frame) / (PERIOD * about.fps));
      camera.position.set(0.6, 2.2, 6.2);
      camera.lookAt(0, 1.95, 0);
      renderer.render(scene, camera);
    },
  };
}
