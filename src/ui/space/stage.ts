import {
  AmbientLight,
  Box3,
  DirectionalLight,
  type Camera as Eye,
  Group,
  Object3D,
  OrthographicCamera,
  PerspectiveCamera,
  Plane,
  Raycaster,
  Scene,
  Vector2,
  Vector3,
  WebGLRenderer,
} from 'three';
import { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import { TransformControls } from 'three/addons/controls/TransformControls.js';
import { type Camera, IDENTITY_TRANSFORM, type ItemRef, type SceneDocument } from '@/core/scene';
import type { TrailStep } from '@/render/pool/inspector';
import type { SpaceGeometry } from '@/render/questions/geometry';
import { cameraGlyph, floorGlyph, lightGlyph, matrixOf, trailGlyph } from './glyphs';
import { type Handle, handlesOf } from './handles';
import { Solids } from './solids';
import { type Mode, transformed } from './transforms';

/** What the stage shows. */
export interface Shown {
  document: SceneDocument;
  geometry: SpaceGeometry | null;
  chosen: ItemRef[];
  camera: Camera;
  frame: number;
  aspect: number;
  trails: TrailStep[][] | null;
  trail: number;
}

export interface StageEvents {
  choose: (items: ItemRef[], add: boolean) => void;
  /** An edit under way; edits of one drag follow each other until it ends. */
  drag: (label: string, change: (d: SceneDocument) => SceneDocument) => void;
  end: () => void;
  cancel: () => void;
}

export type ViewSide = 'free' | 'top' | 'front' | 'side';

/** A draw that takes longer is followed by a rest of so many times as long. */
const SLOW_DRAW_MS = 60;
const REST_DRAWS = 3;

/** The working view of a shot's space: looks around freely, never through or at the expense of the shot's camera. */
export class Stage {
  private readonly renderer: WebGLRenderer;
  private readonly scene = new Scene();
  private readonly solids = new Solids();
  private readonly glyphs = new Group();
  private readonly perspective = new PerspectiveCamera(45, 1, 0.01, 10000);
  private readonly flat = new OrthographicCamera(-1, 1, 1, -1, -10000, 10000);
  private eye: Eye = this.perspective;
  private side: ViewSide = 'free';
  private orbit: OrbitControls;
  private readonly transform: TransformControls;
  private readonly dummy = new Object3D();
  private readonly raycaster = new Raycaster();
  private handles: Handle[] = [];
  private held: { handle: Handle; plane: Plane } | null = null;
  private shown: Shown | null = null;
  private start: { matrix: number[]; document: SceneDocument } | null = null;
  private radius = 1;
  private framed = false;
  private wanted = false;
  private drawMs = 0;
  private drawnAt = 0;
  private down = new Vector2();

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly events: StageEvents,
  ) {
    this.renderer = new WebGLRenderer({ canvas, antialias: true });
    this.renderer.setClearColor('#191919');
    const sun = new DirectionalLight('#ffffff', 1.6);
    sun.position.set(0.4, 1, 0.7);
    this.scene.add(new AmbientLight('#ffffff', 1.1), sun, this.solids.group, this.glyphs, this.dummy);
    this.perspective.position.set(3, 2, 4);
    this.orbit = this.makeOrbit();
    this.transform = new TransformControls(this.eye, canvas);
    this.transform.setSize(0.9);
    // Okabe and Ito's vermilion, green and blue, which the colour-blind tell apart too.
    this.transform.setColors('#d55e00', '#009e73', '#56b4e9', '#ffffff');
    this.scene.add(this.transform.getHelper());
    this.transform.addEventListener('change', () => this.draw());
    this.transform.addEventListener('dragging-changed', (e) => this.onDragging(e.value === true));
    this.transform.addEventListener('objectChange', () => this.onTransform());
    canvas.addEventListener('pointerdown', this.onDown);
    canvas.addEventListener('pointermove', this.onMove);
    canvas.addEventListener('pointerup', this.onUp);
  }

  private makeOrbit(): OrbitControls {
    const orbit = new OrbitControls(this.eye, this.canvas);
    orbit.enableRotate = this.side === 'free';
    orbit.addEventListener('change', () => this.draw());
    return orbit;
  }

  dispose(): void {
    this.canvas.removeEventListener('pointerdown', this.onDown);
    this.canvas.removeEventListener('pointermove', this.onMove);
    this.canvas.removeEventListener('pointerup', this.onUp);
    this.orbit.dispose();
    this.transform.dispose();
    this.solids.dispose();
    this.renderer.dispose();
  }

  resize(width: number, height: number): void {
    if (width < 2 || height < 2) return;
    this.renderer.setPixelRatio(Math.min(2, window.devicePixelRatio));
    this.renderer.setSize(width, height, false);
    this.perspective.aspect = width / height;
    this.perspective.updateProjectionMatrix();
    const half = (this.flat.top - this.flat.bottom) / 2;
    this.flat.left = (-half * width) / height;
    this.flat.right = (half * width) / height;
    this.flat.updateProjectionMatrix();
    this.draw();
  }

  /** Draws once before the next frame; where drawing is slow, seldom enough to leave the page most of its time. */
  private draw(): void {
    if (this.wanted) return;
    this.wanted = true;
    const rest = this.drawMs < SLOW_DRAW_MS ? 0 : this.drawnAt + this.drawMs * REST_DRAWS - performance.now();
    const soon = () =>
      requestAnimationFrame((started) => {
        this.wanted = false;
        this.renderer.render(this.scene, this.eye);
        this.note();
        // Drawing goes on behind the call: the next frame comes when it is done.
        requestAnimationFrame((ended) => {
          this.drawMs = ended - started;
          this.drawnAt = ended;
        });
      });
    if (rest > 0) setTimeout(soon, rest);
    else soon();
  }

  show(next: Shown): void {
    const before = this.shown;
    this.shown = next;
    const same = (k: 'objects' | 'materials' | 'fogs') => before?.document[k] === next.document[k];
    const still = same('objects') && same('materials') && same('fogs') && before?.geometry === next.geometry;
    if (!still || before?.chosen !== next.chosen || before.camera !== next.camera) this.showSolids(next);
    if (!this.framed && !this.solids.isEmpty) {
      this.framed = true;
      this.beside(next.camera);
    }
    this.showGlyphs(next);
    this.attach();
    this.draw();
  }

  private showSolids({ document, geometry, chosen, camera }: Shown): void {
    this.solids.show(document, geometry, new Set(chosen.filter((c) => c.kind === 'object').map((c) => c.name)));
    const whole = this.solids.bounds();
    const size = whole ? Math.max(0.05, whole.getSize(new Vector3()).length() / 2) : 2;
    // A sea or a sky dome must not make everything else small.
    const looked = new Vector3(...camera.target).distanceTo(new Vector3(...camera.position));
    this.radius = Math.min(size, looked * 1.5);
  }

  private showGlyphs({ document, chosen, camera, frame, aspect, trails, trail }: Shown): void {
    const has = (kind: ItemRef['kind'], name: string) => chosen.some((c) => c.kind === kind && c.name === name);
    this.glyphs.clear();
    const size = this.radius * 2;
    this.glyphs.add(floorGlyph(size));
    for (const l of document.lights) {
      const g = lightGlyph(l, size, has('light', l.name));
      g.userData.item = { kind: 'light', name: l.name };
      this.glyphs.add(g);
    }
    for (const c of document.cameras) {
      const g = cameraGlyph(c, frame, aspect, c.name === camera.name, has('camera', c.name));
      g.userData.item = { kind: 'camera', name: c.name };
      this.glyphs.add(g);
    }
    if (trails) this.glyphs.add(trailGlyph(trails, trail, camera.position));
    this.handles = this.held ? this.handles : handlesOf(document, chosen, size);
    for (const h of this.handles) this.glyphs.add(h.mark);
  }

  /** Puts the gizmo to what is chosen: an object's own axes, or the middle of several. */
  private attach(): void {
    const shown = this.shown;
    if (!shown || this.transform.dragging) return;
    const { document, chosen } = shown;
    const placed = chosen.filter((c) => c.kind === 'object' || c.kind === 'light' || c.kind === 'camera');
    const places = placed.flatMap((c): Vector3[] => {
      if (c.kind === 'object') {
        const o = document.objects.find((x) => x.name === c.name);
        if (!o || o.motion) return [];
        const box = this.solids.boundsOf([c.name]);
        const m = o.transform ?? IDENTITY_TRANSFORM;
        // Meshes that were made in the world have their origin elsewhere: the middle of the box is where they are.
        const identity = JSON.stringify(m) === JSON.stringify(IDENTITY_TRANSFORM);
        if (identity && box) return [box.getCenter(new Vector3())];
        return [new Vector3(m[12], m[13], m[14])];
      }
      const l = c.kind === 'light' ? document.lights.find((x) => x.name === c.name) : undefined;
      if (l) return 'position' in l && !l.motion ? [new Vector3(...l.position)] : [];
      const cam = document.cameras.find((x) => x.name === c.name);
      return cam && !cam.motion ? [new Vector3(...cam.position)] : [];
    });
    if (places.length === 0) {
      this.transform.detach();
      return;
    }
    this.dummy.position.copy(places.reduce((s, p) => s.add(p), new Vector3()).divideScalar(places.length));
    this.dummy.rotation.set(0, 0, 0);
    this.dummy.scale.setScalar(1);
    this.dummy.updateMatrixWorld(true);
    this.transform.attach(this.dummy);
  }

  setMode(mode: Mode): void {
    this.transform.setMode(mode);
    this.draw();
  }

  private onDragging(on: boolean): void {
    this.orbit.enabled = !on;
    if (on) {
      this.start = { matrix: this.dummy.matrix.toArray(), document: this.shown!.document };
      return;
    }
    this.start = null;
    this.events.end();
    this.attach();
    this.draw();
  }

  private onTransform(): void {
    const { start, shown } = this;
    if (!start || !shown) return;
    this.dummy.updateMatrix();
    const now = this.dummy.matrix.clone();
    const step = now.clone().multiply(matrixOf(start.matrix).invert()).toArray();
    const { chosen } = shown;
    const label = chosen.length === 1 ? `move ${chosen[0].name}` : `move ${chosen.length} items`;
    const { document } = start;
    const { mode } = this.transform;
    this.events.drag(label, () => transformed(document, chosen, step, mode));
  }

  /** Leaves a drag as if it had not begun; false when there is none. */
  cancel(): boolean {
    if (!this.start && !this.held) return false;
    this.events.cancel();
    this.start = null;
    this.held = null;
    this.orbit.enabled = true;
    // The gizmo lets go of the pointer by itself when it is given up.
    this.transform.dragging = false;
    this.transform.detach();
    if (this.shown) this.show(this.shown);
    return true;
  }

  private aimAt(event: PointerEvent): void {
    const box = this.canvas.getBoundingClientRect();
    const at = new Vector2(
      ((event.clientX - box.left) / box.width) * 2 - 1,
      1 - ((event.clientY - box.top) / box.height) * 2,
    );
    this.raycaster.setFromCamera(at, this.eye as PerspectiveCamera);
    this.raycaster.params.Line.threshold = this.radius * 0.02;
  }

  private readonly onDown = (event: PointerEvent): void => {
    this.down.set(event.clientX, event.clientY);
    if (event.button !== 0 || this.transform.axis) return;
    this.aimAt(event);
    const hit = this.raycaster.intersectObjects(this.handles.map((h) => h.mark))[0];
    const handle = hit && this.handles.find((h) => h.mark === hit.object);
    if (!handle) return;
    event.stopImmediatePropagation();
    this.orbit.enabled = false;
    this.canvas.setPointerCapture(event.pointerId);
    const normal = this.eye.getWorldDirection(new Vector3());
    this.held = { handle, plane: new Plane().setFromNormalAndCoplanarPoint(normal, handle.mark.position) };
  };

  private readonly onMove = (event: PointerEvent): void => {
    if (!this.held) return;
    this.aimAt(event);
    const to = this.raycaster.ray.intersectPlane(this.held.plane, new Vector3());
    if (!to) return;
    const { handle } = this.held;
    handle.mark.position.copy(to);
    this.events.drag(handle.label, (d) => handle.move(d, to));
  };

  private readonly onUp = (event: PointerEvent): void => {
    if (this.held) {
      this.held = null;
      this.orbit.enabled = true;
      this.events.end();
      if (this.shown) this.show(this.shown);
      return;
    }
    const still = Math.hypot(event.clientX - this.down.x, event.clientY - this.down.y) < 4;
    if (!still || event.button !== 0 || this.transform.axis) return;
    this.aimAt(event);
    const glyph = this.raycaster.intersectObjects(this.glyphs.children, true).find((h) => itemOf(h.object));
    const solid = this.solids.pick(this.raycaster);
    const item = glyph ? itemOf(glyph.object) : solid !== null ? ({ kind: 'object', name: solid } as ItemRef) : null;
    this.events.choose(item ? [item] : [], event.ctrlKey || event.metaKey);
  };

  /** Looks at what the shot's camera looks at, from behind and beside it. */
  private beside(camera: Camera): void {
    const target = new Vector3(...camera.target);
    const back = new Vector3(...camera.position).sub(target);
    const reach = Math.max(1e-3, back.length());
    const aside = new Vector3(0, 1, 0).cross(back).normalize();
    const eye = target
      .clone()
      .addScaledVector(back, 1.5)
      .addScaledVector(aside, reach * 0.75);
    eye.y += reach * 0.55;
    this.perspective.position.copy(eye);
    this.perspective.near = reach / 200;
    this.perspective.far = reach * 400;
    this.perspective.updateProjectionMatrix();
    this.orbit.target.copy(target);
    this.orbit.update();
  }

  /** Brings objects, or everything, into view. */
  frame(items: readonly ItemRef[]): void {
    const names = items.filter((i) => i.kind === 'object').map((i) => i.name);
    let box = names.length > 0 ? this.solids.boundsOf(names) : null;
    if (!box && items.length > 0 && this.transform.object) {
      const p = this.dummy.position;
      const s = this.radius * 0.3;
      box = new Box3(p.clone().subScalar(s), p.clone().addScalar(s));
    }
    box ??= this.solids.bounds();
    if (!box) return;
    const middle = box.getCenter(new Vector3());
    const reach = Math.max(1e-3, box.getSize(new Vector3()).length() / 2);
    const way = this.eye.position.clone().sub(this.orbit.target);
    if (way.lengthSq() < 1e-9) way.set(0.6, 0.45, 1);
    this.orbit.target.copy(middle);
    this.perspective.near = reach / 200;
    this.perspective.far = reach * 400;
    this.perspective.updateProjectionMatrix();
    this.eye.position.copy(middle).addScaledVector(way.normalize(), reach * 2.4);
    if (this.eye === this.flat) {
      const aspect = this.perspective.aspect;
      Object.assign(this.flat, { top: reach, bottom: -reach, left: -reach * aspect, right: reach * aspect, zoom: 1 });
      this.flat.updateProjectionMatrix();
    }
    this.orbit.update();
    this.draw();
  }

  /** Looks freely, or straight along an axis. */
  setSide(side: ViewSide): void {
    const target = this.orbit.target.clone();
    this.side = side;
    this.eye = side === 'free' ? this.perspective : this.flat;
    if (side !== 'free') {
      const way = { top: [0, 1, 1e-4], front: [0, 0, 1], side: [1, 0, 0] }[side];
      this.flat.position.copy(target).add(new Vector3(way[0], way[1], way[2]).multiplyScalar(this.radius * 3));
    }
    this.orbit.dispose();
    this.orbit = this.makeOrbit();
    this.orbit.target.copy(target);
    this.transform.camera = this.eye as PerspectiveCamera;
    this.frame([]);
  }

  /** Where the view looks from and at, for a camera that is to see the same. */
  look(): { position: [number, number, number]; target: [number, number, number]; degrees: number } {
    const tidy = (v: Vector3): [number, number, number] =>
      [v.x, v.y, v.z].map((c) => Number(c.toFixed(4))) as [number, number, number];
    return { position: tidy(this.eye.position), target: tidy(this.orbit.target), degrees: this.perspective.fov };
  }

  /** Tells where the gizmo stands, in pixels from the canvas's corner, for whoever drives it by other means. */
  private note(): void {
    if (!this.transform.object) {
      delete this.canvas.dataset.gizmo;
      return;
    }
    const p = this.dummy.position.clone().project(this.eye);
    const { clientWidth: w, clientHeight: h } = this.canvas;
    this.canvas.dataset.gizmo = `${Math.round(((p.x + 1) / 2) * w)},${Math.round(((1 - p.y) / 2) * h)}`;
  }
}

function itemOf(object: Object3D): ItemRef | null {
  for (let o: Object3D | null = object; o; o = o.parent) if (o.userData.item) return o.userData.item as ItemRef;
  return null;
}
