import type { SceneDocument } from '../document/document';
import type { LightControls } from '../document/light';

const NO_GAINS: LightControls['gains'] = { seen: 0, mirrors: 0, diffuse: 0, reflection: 0, transmission: 0, fog: 0 };

/** The document with what is switched off giving no light; light groups and numbers stay as they are. */
export function litDocument(document: SceneDocument): SceneDocument {
  const { lights, environment } = document;
  const off = environment && !environment.on ? { ...environment, gains: NO_GAINS } : environment;
  const sky = off?.kind === 'sky' && !off.sun.on ? { ...off, sun: { ...off.sun, gains: NO_GAINS } } : off;
  const dark = new Set(document.materials.filter((m) => m.emission_luminance > 0 && !m.light.on).map((m) => m.name));
  if (sky === environment && dark.size === 0 && lights.every((l) => l.on)) return document;
  return {
    ...document,
    environment: sky,
    lights: lights.map((l) => (l.on ? l : { ...l, power: 0, visible: false })),
    // Their emission stays in the material, so that the light group does; nothing of it reaches anyone.
    materials: document.materials.map((m) => (dark.has(m.name) ? { ...m, light: { ...m.light, gains: NO_GAINS } } : m)),
  };
}
