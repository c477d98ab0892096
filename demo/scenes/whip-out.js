// A marble rolls along the shelf; then the camera whips to the right, out of the shot; 60 fps.
import { settle, shelf } from './shelf.js';
import { solid } from './workshop.js';

export const about = { name: 'whip-out', fps: 60, frames: 84, seed: 301 };

export function build({ width, height }) {
  const { THREE, renderer, scene, camera, marbles } = shelf({ width, height, seed: about.seed });
  const marble = solid(scene, new THREE.SphereGeometry(0.26, 40, 28), marbles[0]);
  return {
    canvas: renderer.domElement,
    events: [{ frame: 58, seconds: 58 / 60, strength: 0.2 }],
    draw(frame) {
      const u = Math.max(0, (frame - 46) / 38);
      const x = -9.4 + frame * 0.004 + 11 * u * u * u;
      marble.position.set(-10.2 + frame * 0.034, 1.28, 0.35);
      marble.rotation.z = -frame * 0.13;
      camera.position.set(x, 1.95, 5.2);
      camera.lookAt(x + settle(Math.min(1, u)) * 0.5, 1.75, -0.6);
      renderer.render(scene, camera);
    },
  };
}
