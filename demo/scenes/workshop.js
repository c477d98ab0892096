// What the Marble Parade scenes share: seeded chance, wood, light, the table. Runs in the browser, draws with three.js.
import * as THREE from 'three';
import { RoomEnvironment } from 'three/addons/environments/RoomEnvironment.js';

/** Mulberry32: a small seeded generator, so that every run draws the same pictures. */
export function seeded(seed) {
  let a = seed >>> 0;
  return () => {
    a = (a + 0x6d2b79f5) | 0;
    let t = Math.imul(a ^ (a >>> 15), 1 | a);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** Smooth value noise on a lattice that wraps after `period` cells. */
function valueNoise(random, period) {
  const lattice = Float32Array.from({ length: period * period }, random);
  const at = (x, y) => lattice[(((y % period) + period) % period) * period + (((x % period) + period) % period)];
  const ease = (u) => u * u * (3 - 2 * u);
  return (x, y) => {
    const [i, j] = [Math.floor(x), Math.floor(y)];
    const [u, v] = [ease(x - i), ease(y - j)];
    return (at(i, j) * (1 - u) + at(i + 1, j) * u) * (1 - v) + (at(i, j + 1) * (1 - u) + at(i + 1, j + 1) * u) * v;
  };
}

/** A wood texture: growth rings cut lengthways, pores along the grain, a few darker streaks. */
export function wood(seed, light, dark, { rings = 9, repeat = [1, 1], size = 1024 } = {}) {
  const random = seeded(seed);
  const broad = valueNoise(random, 64);
  const fine = valueNoise(random, 256);
  const canvas = document.createElement('canvas');
  canvas.width = canvas.height = size;
  const context = canvas.getContext('2d');
  const image = context.createImageData(size, size);
  const a = new THREE.Color(light).convertLinearToSRGB();
  const b = new THREE.Color(dark).convertLinearToSRGB();
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++) {
      const u = (x / size) * 4;
      const v = (y / size) * 16;
      const bend = broad(u * 1.0, v * 0.35) * 2.2 + broad(u * 3 + 9, v * 0.8) * 0.5;
      const ring = (v * 0.06 * rings + bend) % 1;
      const edge = Math.pow(ring < 0 ? ring + 1 : ring, 2.2);
      const pores = fine(u * 14, v * 16) * 0.16 + fine(u * 60, v * 15 + 40) * 0.1;
      const mix = Math.min(1, 0.12 + edge * 0.5 + pores + broad(u * 0.7 + 31, v * 0.1) * 0.22);
      const i = (y * size + x) * 4;
      image.data[i] = 255 * (a.r + (b.r - a.r) * mix);
      image.data[i + 1] = 255 * (a.g + (b.g - a.g) * mix);
      image.data[i + 2] = 255 * (a.b + (b.b - a.b) * mix);
      image.data[i + 3] = 255;
    }
  context.putImageData(image, 0, 0);
  const texture = new THREE.CanvasTexture(canvas);
  texture.colorSpace = THREE.SRGBColorSpace;
  texture.wrapS = texture.wrapT = THREE.RepeatWrapping;
  texture.repeat.set(...repeat);
  texture.anisotropy = 2;
  return texture;
}

export function woodMaterial(seed, light, dark, options = {}) {
  const map = wood(seed, light, dark, options);
  return new THREE.MeshStandardMaterial({ map, roughness: options.roughness ?? 0.55, metalness: 0 });
}

/** A backdrop far out of focus: warm wall, window glow, dim shelves. */
function backdrop(seed) {
  const random = seeded(seed);
  const canvas = document.createElement('canvas');
  canvas.width = 1024;
  canvas.height = 512;
  const c = canvas.getContext('2d');
  const wall = c.createLinearGradient(0, 0, 1024, 512);
  wall.addColorStop(0, '#8fa3a6');
  wall.addColorStop(0.55, '#5d6d70');
  wall.addColorStop(1, '#343d40');
  c.fillStyle = wall;
  c.fillRect(0, 0, 1024, 512);
  c.filter = 'blur(14px)';
  for (const y of [150, 300, 430]) {
    c.fillStyle = '#3f342a';
    c.fillRect(0, y, 1024, 16);
    for (let x = -10; x < 1024;) {
      const w = 14 + random() * 46;
      const h = 30 + random() * 80;
      c.fillStyle = ['#a8573a', '#c49a52', '#4d6b62', '#7c8a80', '#2f3f47', '#b9a27c', '#6d4a3a'][
        Math.floor(random() * 7)
      ];
      if (random() > 0.25) c.fillRect(x, y - h, w, h);
      x += w + random() * 30;
    }
  }
  c.filter = 'blur(40px)';
  c.fillStyle = 'rgba(255, 238, 205, 0.75)';
  c.fillRect(80, 20, 170, 230);
  const texture = new THREE.CanvasTexture(canvas);
  texture.colorSpace = THREE.SRGBColorSpace;
  return texture;
}

/** Renderer, scene, camera and light of the workshop. Units are decimetres. */
export function workshop({ width, height, seed, wall = true }) {
  const renderer = new THREE.WebGLRenderer({ antialias: true, preserveDrawingBuffer: true });
  renderer.setSize(width, height, false);
  renderer.shadowMap.enabled = true;
  renderer.shadowMap.type = THREE.PCFSoftShadowMap;
  renderer.toneMapping = THREE.ACESFilmicToneMapping;
  renderer.toneMappingExposure = 1.05;
  const scene = new THREE.Scene();
  const environment = new THREE.PMREMGenerator(renderer).fromScene(new RoomEnvironment(), 0.03).texture;
  scene.environment = environment;
  scene.environmentIntensity = 0.42;
  scene.background = new THREE.Color('#3a4346');
  const camera = new THREE.PerspectiveCamera(32, width / height, 0.1, 100);

  const key = new THREE.DirectionalLight('#ffe2b8', 3.1);
  key.position.set(-5, 8, 5);
  key.castShadow = true;
  key.shadow.mapSize.set(1024, 1024);
  key.shadow.radius = 3;
  key.shadow.bias = -0.0004;
  key.shadow.normalBias = 0.02;
  Object.assign(key.shadow.camera, { left: -6, right: 6, top: 6, bottom: -4, near: 1, far: 24 });
  scene.add(key);
  const fill = new THREE.DirectionalLight('#a9c9d6', 0.55);
  fill.position.set(6, 3, 2);
  scene.add(fill);

  const table = new THREE.Mesh(
    new THREE.PlaneGeometry(30, 16),
    woodMaterial(seed, '#b98a56', '#5d3a1e', { repeat: [3, 1.6], roughness: 0.6 }),
  );
  table.rotation.x = -Math.PI / 2;
  table.position.z = -2;
  table.receiveShadow = true;
  scene.add(table);
  if (wall) {
    const back = new THREE.Mesh(
      new THREE.PlaneGeometry(34, 17),
      new THREE.MeshBasicMaterial({ map: backdrop(seed + 1) }),
    );
    back.position.set(0, 5.5, -10);
    scene.add(back);
  }
  return { THREE, renderer, scene, camera, key };
}

/** Adds a mesh that throws and takes shadows. */
export function solid(parent, geometry, material, place) {
  const mesh = new THREE.Mesh(geometry, material);
  mesh.castShadow = mesh.receiveShadow = true;
  place?.(mesh);
  parent.add(mesh);
  return mesh;
}

export const brass = () => new THREE.MeshStandardMaterial({ color: '#c9963c', metalness: 1, roughness: 0.24 });

/** A glass-like marble with two swirls, so that its rolling can be seen. */
export function marbleMaterial(seed, base, swirl) {
  const random = seeded(seed);
  const noise = valueNoise(random, 32);
  const canvas = document.createElement('canvas');
  canvas.width = 512;
  canvas.height = 256;
  const c = canvas.getContext('2d');
  const image = c.createImageData(512, 256);
  const a = new THREE.Color(base).convertLinearToSRGB();
  const b = new THREE.Color(swirl).convertLinearToSRGB();
  for (let y = 0; y < 256; y++)
    for (let x = 0; x < 512; x++) {
      const band = Math.sin((x / 512) * Math.PI * 4 + (y / 256) * 7 + noise((x / 512) * 32, (y / 256) * 6) * 3);
      const mix = Math.min(1, Math.max(0, band * 2.4 - 0.6));
      const i = (y * 512 + x) * 4;
      image.data.set(
        [255 * (a.r + (b.r - a.r) * mix), 255 * (a.g + (b.g - a.g) * mix), 255 * (a.b + (b.b - a.b) * mix), 255],
        i,
      );
    }
  c.putImageData(image, 0, 0);
  const map = new THREE.CanvasTexture(canvas);
  map.colorSpace = THREE.SRGBColorSpace;
  return new THREE.MeshPhysicalMaterial({
    map,
    roughness: 0.12,
    metalness: 0,
    clearcoat: 1,
    clearcoatRoughness: 0.04,
    envMapIntensity: 2,
  });
}
