import { directionAt, type Canvas } from "../../../core/panorama/canvas/projection";
import type { View } from "../../work/sessionState";
import { clamp } from "../../../core/math/clamp";

/**
 * Something drawn in space; `raise` sets the height of a relief in shares of its width, `show` puts
 * a sharper picture in place of the one shown.
 */
export interface Space {
  raise(height: number): void;
  show(view: View): void;
  close(): void;
}

type Three = typeof import("three");

async function stage(host: HTMLElement, fov: number) {
  const three = await import("three");
  const renderer = new three.WebGLRenderer({ antialias: true });
  const scene = new three.Scene();
  const camera = new three.PerspectiveCamera(fov, 1, 0.01, 50);
  renderer.setPixelRatio(Math.min(2, window.devicePixelRatio));
  host.append(renderer.domElement);
  const draw = (): void => renderer.render(scene, camera);
  const fit = (): void => {
    renderer.setSize(host.clientWidth, host.clientHeight);
    camera.aspect = host.clientWidth / Math.max(1, host.clientHeight);
    camera.updateProjectionMatrix();
    draw();
  };
  const watch = new ResizeObserver(fit);
  watch.observe(host);
  return {
    three,
    scene,
    camera,
    draw,
    fit,
    close: (): void => {
      watch.disconnect();
      renderer.dispose();
      renderer.domElement.remove();
    },
  };
}

function textureOf(three: Three, v: View) {
  const t = new three.DataTexture(
    new Uint8Array(v.pixels.buffer),
    v.width,
    v.height,
    three.RGBAFormat,
  );
  t.colorSpace = three.SRGBColorSpace;
  t.minFilter = t.magFilter = three.LinearFilter;
  t.flipY = false;
  t.needsUpdate = true;
  return t;
}

function swap(three: Three, material: InstanceType<Three["MeshBasicMaterial"]>, v: View): void {
  material.map?.dispose();
  material.map = textureOf(three, v);
}

/** The picture draped over its depth map, near parts raised; turned by drag. */
export async function showRelief(
  host: HTMLElement,
  {
    view,
    depth,
    width,
    height,
  }: { view: View; depth: Float32Array; width: number; height: number },
): Promise<Space> {
  const { three, scene, camera, draw, fit, close } = await stage(host, 40);
  const { OrbitControls } = await import("three/addons/controls/OrbitControls.js");
  const shape = new three.PlaneGeometry(1, height / width, width - 1, height - 1);
  const at = shape.getAttribute("position");
  const uv = shape.getAttribute("uv");
  for (let i = 0; i < uv.count; i++) uv.setY(i, 1 - uv.getY(i));
  const material = new three.MeshBasicMaterial({
    map: textureOf(three, view),
    side: three.DoubleSide,
  });
  scene.add(new three.Mesh(shape, material));
  camera.position.set(0, -0.55, 1.15);
  const controls = new OrbitControls(camera, host.querySelector("canvas")!);
  controls.addEventListener("change", draw);
  controls.update();
  fit();
  return {
    raise(h) {
      for (let i = 0; i < at.count; i++) at.setZ(i, (0.5 - depth[i]!) * h);
      at.needsUpdate = true;
      draw();
    },
    show(v) {
      swap(three, material, v);
      draw();
    },
    close() {
      controls.dispose();
      close();
    },
  };
}

/** A panorama seen from where it was taken, whatever its projection. */
export async function showSphere(host: HTMLElement, view: View, canvas: Canvas): Promise<Space> {
  const { three, scene, camera, draw, fit, close } = await stage(host, 65);
  const columns = 256;
  const rows = 128;
  const places: number[] = [];
  const uvs: number[] = [];
  const faces: number[] = [];
  // a grid over the picture, each corner put where it was seen
  for (let j = 0; j <= rows; j++)
    for (let i = 0; i <= columns; i++) {
      const d = directionAt(canvas, (i / columns) * canvas.width, (j / rows) * canvas.height);
      places.push(...(d ? [d[0], -d[1], -d[2]] : [0, 0, 0]));
      uvs.push(i / columns, j / rows);
      const corner = j * (columns + 1) + i;
      if (
        i < columns &&
        j < rows &&
        d &&
        directionAt(canvas, ((i + 1) / columns) * canvas.width, ((j + 1) / rows) * canvas.height)
      )
        faces.push(
          corner,
          corner + 1,
          corner + columns + 1,
          corner + 1,
          corner + columns + 2,
          corner + columns + 1,
        );
    }
  const shape = new three.BufferGeometry();
  shape.setAttribute("position", new three.Float32BufferAttribute(places, 3));
  shape.setAttribute("uv", new three.Float32BufferAttribute(uvs, 2));
  shape.setIndex(faces);
  const material = new three.MeshBasicMaterial({
    map: textureOf(three, view),
    side: three.DoubleSide,
  });
  scene.add(new three.Mesh(shape, material));
  let lon = 0;
  let lat = 0;
  let held: { x: number; y: number } | undefined;
  const look = (): void => {
    lat = Math.max(-Math.PI / 2 + 1e-3, Math.min(Math.PI / 2 - 1e-3, lat));
    camera.lookAt(Math.sin(lon) * Math.cos(lat), -Math.sin(lat), -Math.cos(lon) * Math.cos(lat));
    draw();
  };
  const el = host.querySelector("canvas")!;
  const perPx = (): number => (camera.fov * Math.PI) / 180 / Math.max(1, host.clientHeight);
  el.style.cursor = "grab";
  el.onpointerdown = (e) => {
    held = { x: e.clientX, y: e.clientY };
    el.setPointerCapture(e.pointerId);
    host.focus();
  };
  el.onpointermove = (e) => {
    if (!held) return;
    lon -= (e.clientX - held.x) * perPx();
    lat -= (e.clientY - held.y) * perPx();
    held = { x: e.clientX, y: e.clientY };
    look();
  };
  el.onpointerup = () => {
    held = undefined;
  };
  el.onwheel = (e) => {
    e.preventDefault();
    camera.fov = clamp(camera.fov * Math.exp(e.deltaY * 0.001), 10, 110);
    camera.updateProjectionMatrix();
    draw();
  };
  const TURNS: Record<string, [number, number]> = {
    ArrowLeft: [-0.1, 0],
    ArrowRight: [0.1, 0],
    ArrowUp: [0, -0.1],
    ArrowDown: [0, 0.1],
  };
  host.onkeydown = (e) => {
    const t = TURNS[e.key];
    if (t) {
      lon += t[0];
      lat += t[1];
    } else if (e.key === "Home") {
      lon = 0;
      lat = 0;
    } else return;
    e.preventDefault();
    e.stopPropagation();
    look();
  };
  fit();
  look();
  return {
    raise: () => undefined,
    show(v) {
      swap(three, material, v);
      draw();
    },
    close() {
      host.onkeydown = null;
      close();
    },
  };
}
