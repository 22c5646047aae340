import { type Scene, sceneSchema } from '@/core/scene';
import { spawnNode } from '@/render/node/threads';
import { RenderPool } from '@/render/pool/pool';
import { median } from './median';
import { instancedScene } from './scenes';

const edit = (scene: Scene, change: Partial<Scene['document']>): Scene => ({
  ...scene,
  document: { ...scene.document, ...change },
});

/** Milliseconds from an edit until threads can trace it, beside loading the scene anew. */
export async function measureEdits(module: WebAssembly.Module, thread: URL, room: Scene) {
  const time = async (scene: Scene, change: (s: Scene, k: number) => Scene) => {
    const pool = new RenderPool(module, spawnNode(thread), 2);
    const { buildMs } = await pool.load(scene);
    const runs: { ms: number; rebuilt: string }[] = [];
    for (let k = 0; k < 5; k++) {
      const { updateMs, rebuilt } = await pool.update(change(scene, k));
      runs.push({ ms: updateMs, rebuilt });
    }
    pool.close();
    return { loadMs: buildMs, ms: median(runs.map((r) => r.ms)), rebuilt: runs[runs.length - 1].rebuilt };
  };
  const many = instancedScene();
  return {
    light: await time(room, (s, k) =>
      edit(s, { lights: s.document.lights.map((l, i) => (i === 0 ? { ...l, stops: k } : l)) }),
    ),
    material: await time(room, (s, k) =>
      edit(s, { materials: s.document.materials.map((m) => ({ ...m, base_weight: 1 - k / 10 })) }),
    ),
    instances: await time({ ...many, document: sceneSchema.parse(many.document) }, (s, k) =>
      edit(s, {
        objects: s.document.objects.map((o, i) =>
          i % 7 === 0 ? { ...o, transform: o.transform!.map((v, a) => (a === 13 ? v + k / 10 : v)) } : o,
        ),
      }),
    ),
  };
}
