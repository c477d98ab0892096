// One shelf of the workshop, filmed twice with a camera that whips to the right: out of the first shot, into the second.
import { brass, marbleMaterial, seeded, solid, woodMaterial, workshop } from './workshop.js';

const PAINTS = ['#2f7f86', '#c8553a', '#d9a441', '#e9dcc0', '#6d7f5f'];

/** The shelf, from x = −14 to 14: jars of marbles, wooden rails, small brass bells. */
export function shelf({ width, height, seed }) {
  const { THREE, renderer, scene, camera } = workshop({ width, height, seed });
  const random = seeded(seed);
  const beech = woodMaterial(seed + 11, '#e0b98a', '#a3744a', { rings: 6 });
  const walnut = woodMaterial(seed + 12, '#7b5232', '#3a2413', { rings: 7 });
  solid(scene, new THREE.BoxGeometry(30, 0.25, 2.4), walnut, (m) => m.position.set(0, 0.9, -0.6));
  const back = woodMaterial(seed + 13, '#b98a56', '#5d3a1e', { rings: 8, repeat: [6, 1] });
  solid(scene, new THREE.BoxGeometry(30, 4.6, 0.2), back, (m) => m.position.set(0, 3.2, -1.9));
  const marbles = Array.from({ length: 6 }, (_, i) => marbleMaterial(seed + 20 + i, PAINTS[i % 5], '#f4efe0'));
  const glass = new THREE.MeshPhysicalMaterial({
    color: '#dfeeea',
    transparent: true,
    opacity: 0.22,
    roughness: 0.05,
    clearcoat: 1,
  });
  for (let x = -13.5; x < 14; x += 1.5) {
    const kind = Math.floor(random() * 3);
    if (kind === 0) {
      solid(scene, new THREE.CylinderGeometry(0.42, 0.42, 1.1, 32, 1, true), glass, (m) =>
        m.position.set(x, 1.6, -0.6),
      ).castShadow = false;
      for (let n = 0; n < 9; n++)
        solid(scene, new THREE.SphereGeometry(0.16, 24, 16), marbles[Math.floor(random() * 6)], (m) =>
          m.position.set(x + (random() - 0.5) * 0.4, 1.18 + Math.floor(n / 3) * 0.25, -0.6 + (random() - 0.5) * 0.4),
        );
    } else if (kind === 1) {
      for (let n = 0; n < 4; n++)
        solid(scene, new THREE.BoxGeometry(0.16, 0.6 + random() * 1.1, 0.5), n % 2 ? beech : walnut, (m) =>
          m.position.set(x - 0.4 + n * 0.26, 1.5, -0.7),
        );
    } else {
      solid(scene, new THREE.ConeGeometry(0.34, 0.62, 32), brass(), (m) => m.position.set(x, 1.5, -0.5));
      solid(scene, new THREE.SphereGeometry(0.17, 24, 16), marbles[Math.floor(random() * 6)], (m) =>
        m.position.set(x + 0.55, 1.2, 0),
      );
    }
  }
  return { THREE, renderer, scene, camera, marbles };
}

export const settle = (u) => u * u * (3 - 2 * u);
