import { type GradeCube, gradeCube } from '@/core/comp';
import type { StackOver } from '../views/stack';
import type { Question } from './question';

/** Entries along each axis of a table that is made of a grade. */
const SIZE = 33;

/** The grade of a stack as a .cube, up to so many times display white; null where it has none. */
export const gradeTable: Question<{ over: StackOver; most: number }, GradeCube | null> = async (
  desk,
  { over, most },
) => {
  const { tables } = await desk.besides.of(over);
  const table = (name: string) => {
    const found = tables.get(name);
    if (!found) throw new Error(`the look table ${name} is not there`);
    return found;
  };
  return gradeCube(over.stack, table, { size: SIZE, most });
};
