import { BALANCE } from './balance';
import { COMP } from './comp';
import type { ViewEntry } from './entry';
import { RUNS } from './runs';
import { SETUP } from './setup';
import { SPLIT } from './split';
import { TUNE } from './tune';

/** The main views in working order. Another one is a folder and a line here. */
export const VIEWS: readonly ViewEntry[] = [SETUP, TUNE, SPLIT, BALANCE, COMP, RUNS];

/** A view by its name; the second, Tune, where there is none of that name. */
export const viewNamed = (name: string): ViewEntry => VIEWS.find((v) => v.name === name) ?? TUNE;
