// The camera comes whipping from the left, in the same direction, and settles on a marble about to be let go; 60 fps.
import { shelf } from './shelf.js';
import { solid } from './workshop.js';

export const about = { name: 'whip-in', fps: 60, frames: 96, seed: 311 };
const SETTLED = 36;

export function build({ width, height }) {
  const { THREE, renderer, scene, camera, marbles } = shelf({ width, height, seed: about.seed });
  const marble = solid(scene, new THREE.SphereGeometry(0.3, 40, 28), marbles[1]);
  return {
    canvas: renderer.domElement,
    events: [{ frame: SETTLED, seconds: SETTLED / 60, strength: 0.2 }],
    draw(frame) {
      const u = Math.max(0, 1 - frame / SETTLED);
      const x = 8.2 - 11 * u * u * u + Math.max(0, frame - SETTLED) * 0.003;
      const rolled = Math.max(0, frame - 52);
      marble.position.set(8.1 + rolled * rolled * 0.00045, 1.32, 0.3);
      marble.rotation.z = -rolled * rolled * 0.0015;
      camera.position.set(x, 1.95, 5);
      camera.lookAt(x - u * 0.3, 1.7, -0.6);
      renderer.render(scene, camera);
    },
  };
}
