import { type Output, outputSchema } from '@/core/outputs';
import type { Sql } from './connection';

/** Outputs kept for all shots, by name. */
export async function listOwnOutputs(sql: Sql): Promise<Output[]> {
  const rows = await sql<{ output: unknown }[]>`select output from own_output order by name`;
  return rows.map((r) => outputSchema.parse(r.output));
}

/** Keeps an output under its name, in the place of one that has it. */
export async function keepOwnOutput(sql: Sql, output: Output): Promise<void> {
  await sql`insert into own_output (name, output) values (${output.name}, ${sql.json(output as never)})
            on conflict (name) do update set output = excluded.output, saved_at = now()`;
}

export async function dropOwnOutput(sql: Sql, name: string): Promise<boolean> {
  const rows = await sql`delete from own_output where name = ${name} returning name`;
  return rows.length > 0;
}
