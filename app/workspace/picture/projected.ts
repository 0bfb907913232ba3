import type { View } from "../../work/sessionState";
import type { Mesh } from "./reproject";
import type { Size } from "./viewport";

/** A picture drawn over a mesh; places are px of the element from its upper left corner. */
export interface Projected {
  show(view: View, /** its ends meet */ closed: boolean): void;
  draw(mesh: Mesh, box: Size): void;
  close(): void;
}

/** What lies beyond the picture is nothing; the ends of a full turn meet. */
const VERTEX =
  "attribute vec2 share; varying vec2 at; void main() { at = share; gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }";
const FRAGMENT =
  "uniform sampler2D picture; uniform bool closed; varying vec2 at; void main() { vec2 p = vec2(closed ? fract(at.x) : at.x, at.y); if (p.x < 0.0 || p.x > 1.0 || p.y < 0.0 || p.y > 1.0) discard; gl_FragColor = texture2D(picture, p); }";

export async function projectedOn(canvas: HTMLCanvasElement): Promise<Projected> {
  const three = await import("three");
  const renderer = new three.WebGLRenderer({
    canvas,
    antialias: true,
    alpha: true,
    premultipliedAlpha: false,
  });
  const scene = new three.Scene();
  const camera = new three.OrthographicCamera();
  const shape = new three.BufferGeometry();
  const material = new three.ShaderMaterial({
    uniforms: { picture: { value: null }, closed: { value: false } },
    vertexShader: VERTEX,
    fragmentShader: FRAGMENT,
    side: three.DoubleSide,
  });
  const mesh = new three.Mesh(shape, material);
  mesh.frustumCulled = false;
  scene.add(mesh);
  camera.position.z = 1;
  let texture: InstanceType<typeof three.DataTexture> | undefined;
  return {
    show(v, closed) {
      material.uniforms["closed"]!.value = closed;
      texture?.dispose();
      texture = new three.DataTexture(
        new Uint8Array(v.pixels.buffer),
        v.width,
        v.height,
        three.RGBAFormat,
      );
      texture.minFilter = texture.magFilter = three.LinearFilter;
      texture.needsUpdate = true;
      material.uniforms["picture"]!.value = texture;
    },
    draw({ places, shares }, box) {
      if (!texture) return;
      renderer.setPixelRatio(Math.min(2, window.devicePixelRatio));
      renderer.setSize(box.width, box.height, false);
      Object.assign(camera, { left: 0, right: box.width, top: 0, bottom: box.height });
      camera.updateProjectionMatrix();
      const at = new Float32Array((places.length / 2) * 3);
      for (let i = 0, k = 0; i < places.length; i += 2, k += 3) {
        at[k] = places[i]!;
        at[k + 1] = places[i + 1]!;
      }
      // gives back what the mesh before was drawn from
      shape.dispose();
      shape.setAttribute("position", new three.BufferAttribute(at, 3));
      shape.setAttribute("share", new three.BufferAttribute(shares, 2));
      shape.setDrawRange(0, places.length / 2);
      renderer.render(scene, camera);
    },
    close() {
      texture?.dispose();
      shape.dispose();
      material.dispose();
      renderer.dispose();
      renderer.forceContextLoss();
    },
  };
}
