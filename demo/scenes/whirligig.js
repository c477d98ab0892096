// A whirligig with thin spokes spins up and runs down in front of a cutting mat full of fine detail; 60 fps.
import { brass, seeded, solid, woodMaterial, workshop } from './workshop.js';

export const about = { name: 'whirligig', fps: 60, frames: 270, seed: 81 };

const SPOKES = 12;

export function build({ width, height }) {
  const { THREE, renderer, scene, camera } = workshop({ width, height, seed: about.seed, wall: false });
  const random = seeded(about.seed);
  const beech = woodMaterial(91, '#e0b98a', '#a3744a', { rings: 6 });
  const walnut = woodMaterial(92, '#7b5232', '#3a2413', { rings: 7 });

  const board = solid(scene, new THREE.PlaneGeometry(12, 7), new THREE.MeshStandardMaterial({ map: plans(random, THREE), roughness: 0.9 }), (m) => m.position.set(0, 2.2, -1.6)); // prettier-ignore
  board.castShadow = false;

  solid(scene, new THREE.CylinderGeometry(0.1, 0.12, 2.1, 24), walnut, (m) => m.position.set(0, 1.05, -0.2));
  solid(scene, new THREE.CylinderGeometry(0.65, 0.75, 0.16, 48), walnut, (m) => m.position.set(0, 0.08, -0.2));
  const wheel = new THREE.Group();
  wheel.position.set(0, 2.1, 0);
  scene.add(wheel);
  solid(wheel, new THREE.CylinderGeometry(0.2, 0.2, 0.2, 40), brass(), (m) => (m.rotation.x = Math.PI / 2));
  solid(wheel, new THREE.TorusGeometry(1.52, 0.028, 16, 120), beech);
  const paints = ['#2f7f86', '#c8553a', '#d9a441', '#e9dcc0'].map(
    (c) => new THREE.MeshStandardMaterial({ color: c, roughness: 0.5, side: THREE.DoubleSide }),
  );
  for (let i = 0; i < SPOKES; i++) {
    const spoke = new THREE.Group();
    spoke.rotation.z = (i / SPOKES) * Math.PI * 2;
    solid(spoke, new THREE.CylinderGeometry(0.016, 0.016, 1.4, 12), beech, (m) => m.position.set(0, 0.85, 0));
    const vane = new THREE.Shape();
    vane.moveTo(0, 1.0).quadraticCurveTo(0.26, 1.1, 0.2, 1.47).lineTo(0, 1.5).closePath();
    solid(
      spoke,
      new THREE.ExtrudeGeometry(vane, { depth: 0.02, bevelEnabled: false }),
      paints[i % paints.length],
      (m) => (m.rotation.y = -0.5),
    );
    wheel.add(spoke);
  }
  const small = wheel.clone();
  small.scale.setScalar(0.5);
  small.position.set(1.95, 1.15, 0.35);
  scene.add(small);
  solid(scene, new THREE.CylinderGeometry(0.06, 0.08, 1.15, 24), walnut, (m) => m.position.set(1.95, 0.57, 0.22));
  solid(scene, new THREE.CylinderGeometry(0.4, 0.46, 0.12, 40), walnut, (m) => m.position.set(1.95, 0.06, 0.22));

  return {
    canvas: renderer.domElement,
    events: [{ frame: 24, seconds: 0.4, strength: 0.3 }],
    draw(frame) {
      const t = frame / about.fps;
      wheel.rotation.z = -turned(t, 0.4, 7.2);
      small.rotation.z = turned(t, 0.75, 11);
      camera.position.set(0.55 + Math.sin(t * 0.5) * 0.12, 2.05, 6.4 - t * 0.06);
      camera.lookAt(0.45, 1.85, 0);
      renderer.render(scene, camera);
    },
  };
}

/** Angle in radians: from rest at `start` up to `top` rad/s within 0.9 s, then slowing by friction. */
function turned(t, start, top) {
  const dt = 1 / 2400;
  let angle = 0.1;
  for (let now = start; now < t; now += dt) {
    const u = Math.min(1, (now - start) / 0.9);
    angle += top * u * u * (3 - 2 * u) * Math.exp(-0.22 * Math.max(0, now - start - 1.6)) * dt;
  }
  return angle;
}

/** The maker's plans: a grid, numbered arcs, measures, notes. Detail that thin spokes pass in front of. */
function plans(random, THREE) {
  const canvas = document.createElement('canvas');
  canvas.width = 2048;
  canvas.height = 1194;
  const c = canvas.getContext('2d');
  c.fillStyle = '#2d5a60';
  c.fillRect(0, 0, 2048, 1194);
  for (let x = 0; x <= 2048; x += 32) {
    c.strokeStyle = x % 160 === 0 ? 'rgba(220,238,232,.42)' : 'rgba(220,238,232,.16)';
    c.lineWidth = x % 160 === 0 ? 2 : 1;
    c.beginPath();
    c.moveTo(x, 0);
    c.lineTo(x, 1194);
    c.moveTo(0, x);
    c.lineTo(2048, x);
    c.stroke();
  }
  c.strokeStyle = 'rgba(240,246,238,.8)';
  c.fillStyle = 'rgba(240,246,238,.85)';
  c.font = '20px monospace';
  for (let i = 0; i < 26; i++) {
    const [x, y, radius] = [random() * 2048, random() * 1194, 30 + random() * 130];
    c.lineWidth = 1.5 + random() * 1.5;
    c.beginPath();
    c.arc(x, y, radius, random() * 6, random() * 6 + 2);
    c.moveTo(x - radius, y);
    c.lineTo(x + radius, y);
    c.stroke();
    c.fillText(`R ${Math.round(radius)}`, x + 6, y - 8);
  }
  c.fillStyle = '#d9a441';
  for (let i = 0; i < 90; i++) c.fillRect(random() * 2048, random() * 1194, 3 + random() * 26, 3);
  const texture = new THREE.CanvasTexture(canvas);
  texture.colorSpace = THREE.SRGBColorSpace;
  texture.anisotropy = 2;
  return texture;
}
