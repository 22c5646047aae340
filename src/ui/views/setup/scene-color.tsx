'use client';

import { Pipette } from 'lucide-react';
import { useId } from 'react';
import { toast } from 'sonner';
import type { Seen } from '@/render/questions/see';
import { ColorField, type Rgb } from '../../fields/color-field';
import { Plain, Tip } from '../../parts/controls';
import { useAim } from '../../state/aim-store';
import { useSceneExposure } from '../../state/scene-now';
import { useScene } from '../../state/scene-store';
import { proposeAlbedo } from './propose';

/** A colour of the scene: by eye, by number, or taken from the picture. */
export function SceneColor({
  label,
  value,
  mixed,
  onChange,
  onSettled,
}: {
  label: string;
  value: Rgb | undefined;
  mixed?: boolean;
  onChange: (value: Rgb, drag: boolean) => void;
  onSettled: () => void;
}) {
  const id = useId();
  const sceneExposure = useSceneExposure();
  const { aim, begin } = useAim();
  const shown: Rgb = value ?? [0.5, 0.5, 0.5];
  const take = (asItRenders: boolean) =>
    begin({
      by: `${id}${asItRenders}`,
      words: asItRenders
        ? 'Click the surface whose colour is to look like this one does now under its light'
        : 'Click the colour to take, in the picture or the reference',
      take: (seen) => {
        if (!seen.rgb) {
          toast.error('There is no picture there yet.');
          return;
        }
        if (!asItRenders) {
          // What is seen there, brought to 0..1 as the camera exposes it.
          onChange(seen.rgb.map((c) => Number(Math.max(0, c * sceneExposure).toFixed(4))) as Rgb, false);
          toast.success(`${label}: taken in linear light, picture × exposure (${sceneExposure.toPrecision(3)}).`);
          return;
        }
        onChange(...proposed(seen, shown, sceneExposure));
      },
    });
  return (
    <ColorField label={label} value={shown} mixed={mixed} onChange={onChange} onSettled={onSettled}>
      <div className="mt-2 flex gap-1.5">
        <Tip text="Takes the colour under the next click in the picture: linear light times the camera’s exposure.">
          <Plain aria-pressed={aim?.by === `${id}false`} onClick={() => take(false)}>
            <Pipette size={12} /> Take
          </Plain>
        </Tip>
        <Tip text="Click the surface in the picture: the albedo is proposed that would look, under the light measured there, like the colour in this field does now.">
          <Plain onClick={() => take(true)}>As it renders there</Plain>
        </Tip>
      </div>
    </ColorField>
  );
}

/** The albedo that would show as `target` under the light that falls where `seen` is, and words about it. */
function proposed(seen: Seen, target: Rgb, exposure: number): [Rgb, boolean] {
  const material = useScene.getState().document?.materials.find((m) => m.name === seen.material);
  if (!material || !seen.rgb) {
    toast.error('There is no surface there.');
    return [target, false];
  }
  const own = material.base_color.map((c) => c * material.base_weight);
  const { albedo, light, short } = proposeAlbedo(seen.rgb, seen.groups, own, target, exposure);
  if (short) {
    const need = Number.isFinite(short.needed)
      ? `an albedo of ${short.needed.toPrecision(2)}`
      : 'more than any surface';
    const blame = short.group
      ? ` Most of the light there is of “${short.group}”, of which ${Math.round(short.share * 100)} % is ${short.channel}.`
      : '';
    toast.warning(
      `The light there is too weak in ${short.channel} for that colour: it would need ${need}.${blame} Cut at 0.95; change that light, or lower the target.`,
      { duration: 10000 },
    );
  } else
    toast.success(
      `${material.name}: light there measures ${light.map((l) => l.toPrecision(2)).join(' ')} of display white.`,
    );
  return [albedo.map((c) => Number(c.toFixed(4))) as Rgb, false];
}
