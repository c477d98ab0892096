// A paper boat moved by hand, photographed on twos: 24 fps, every picture shown twice, as animators do.
import { seeded, solid, woodMaterial, workshop } from './workshop.js';

export const about = { name: 'paper-boat', fps: 24, frames: 96, seed: 331 };

export function build({ width, height }) {
  const { THREE, renderer, scene, camera } = workshop({ width, height, seed: about.seed });
  const random = seeded(about.seed);
  const walnut = woodMaterial(341, '#7b5232', '#3a2413', { rings: 7 });
  const water = new THREE.MeshPhysicalMaterial({ color: '#2f6f78', roughness: 0.16, clearcoat: 0.8 });
  const surface = new THREE.PlaneGeometry(9, 4, 90, 40);
  const pond = solid(scene, surface, water, (m) => ((m.rotation.x = -Math.PI / 2), m.position.set(0, 0.35, -0.2)));
  pond.castShadow = false;
  for (const z of [-2.3, 1.9])
    solid(scene, new THREE.BoxGeometry(9.6, 0.6, 0.25), walnut, (m) => m.position.set(0, 0.3, z));
  const paper = new THREE.MeshStandardMaterial({
    color: '#f3ecd9',
    roughness: 0.85,
    side: THREE.DoubleSide,
    flatShading: true,
  });
  const boat = new THREE.Group();
  const corner = (...points) => {
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute('position', new THREE.Float32BufferAttribute(points.flat(), 3));
    geometry.computeVertexNormals();
    solid(boat, geometry, paper);
  };
  for (const z of [1, -1]) {
    corner([-1, 0.5, 0], [0, 0, 0.3 * z], [1, 0.5, 0]);
    corner([-1, 0.5, 0], [-0.5, 0, 0.06 * z], [0, 0, 0.3 * z]);
    corner([1, 0.5, 0], [0, 0, 0.3 * z], [0.5, 0, 0.06 * z]);
    corner([-0.42, 0.24, 0.16 * z], [0, 1.05, 0], [0.42, 0.24, 0.16 * z]);
  }
  scene.add(boat);
  const jolts = Array.from({ length: 60 }, () => [random() - 0.5, random() - 0.5, random() - 0.5]);
  return {
    canvas: renderer.domElement,
    events: [{ frame: 64, seconds: 64 / 24, strength: 0.2 }],
    draw(frame) {
      const held = frame - (frame % 2);
      const t = held / 24;
      const [jx, jy, jr] = jolts[held / 2];
      const place = surface.attributes.position;
      for (let i = 0; i < place.count; i++)
        place.setZ(i, 0.05 * Math.sin(place.getX(i) * 2.2 + t * 5) + 0.03 * Math.sin(place.getY(i) * 4 - t * 4));
      place.needsUpdate = true;
      surface.computeVertexNormals();
      const x = -2.6 + 1.25 * t + jx * 0.02;
      boat.position.set(x, 0.36 + 0.06 * Math.sin(x * 2.2 + t * 5) + jy * 0.015, 0);
      boat.rotation.set(0.04 * Math.sin(t * 5), -0.12 + jr * 0.03, 0.1 * Math.sin(t * 5 + 1));
      camera.position.set(-0.2 + t * 0.12, 2.3, 5.4);
      camera.lookAt(0, 0.55, 0);
      renderer.render(scene, camera);
    },
  };
}
