import type { ComponentType } from 'react';
import type { FilmClient } from '@/render/page/client';
import type { Area } from '@/render/views/place';
import type { Desk } from '../state/desk-store';
import type { Looking, Views } from '../state/showing';
import type { Role } from '../state/variants';

/** A face of the drawer. */
export interface Face {
  name: string;
  label: string;
  tip: string;
  Body: ComponentType;
}

/** Something the user can do in a view: by name in the palette, by key, listed in the help of keys. */
export interface ViewCommand {
  name: string;
  /** As react-hotkeys-hook writes keys, and as the help shows them. */
  keys?: string;
  shown?: string;
  run: () => void;
  /** What a key does while it is held, in place of `run`. */
  held?: (down: boolean) => void;
}

/** A main view: what the page needs to know of it. */
export interface ViewEntry {
  name: string;
  label: string;
  key: string;
  tip: string;
  /** Beside the picture. */
  Panel: ComponentType;
  /** Faces of the drawer that it has beside the logbook. */
  faces?: readonly Face[];
  /** Under the picture. */
  Below?: ComponentType;
  /** Over the picture, in its frame. */
  Over?: ComponentType<{ aspect: number }>;
  /** What A and B show in it; the beauty where it does not say. */
  shows?: (looking: Looking) => Views;
  /** Figures of A that its panel tells, so that the rail need not. */
  tells?: readonly ('noise' | 'time')[];
  /** Whether a legend's ends can be dragged. */
  dragsRange?: boolean;
  /** Whether a click into the live picture chooses what lies there. */
  chooses?: boolean;
  commands?: readonly ViewCommand[];
  /** What B shows beside its trial's own picture, in words; null where it is that. */
  saysOfB?: (desk: Pick<Desk, 'layer' | 'overlay' | 'moodB'>) => string | null;
  /** What clicks and boxes in A do while it says that they do something; `out` takes away. */
  takes?: {
    /** What to do, in words; null while clicks do nothing. */
    words: (desk: Pick<Desk, 'layer' | 'overlay'> & { role: Role | null }) => string | null;
    take: (client: FilmClient, area: Area, out: boolean) => void;
  };
}
