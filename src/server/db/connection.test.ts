import { cuttableLine, testDatabase } from '../testing';
import { isAway } from './away';
import { connect } from './connection';

let url: string;
let close: () => Promise<void>;
beforeAll(async () => {
  ({ url, close } = await testDatabase('lantern_test_connection'));
});
afterAll(() => close());

test('lists go to the database and come back as they are', async () => {
  const sql = connect(url, { max: 1 });
  const texts = ['plain', 'two words', 'a "quote", {a brace} and a \\', '', null];
  const ids = ['01890a5d-ac96-774b-bcce-b302099a8057'];
  const [row] = await sql.unsafe('select $1::text[] as texts, $2::uuid[] as ids, $3::int[] as numbers', [
    texts,
    ids,
    [1, -2],
  ] as never[]);
  expect(row).toEqual({ texts, ids, numbers: [1, -2] });
  await sql.end({ timeout: 1 });
});

test('a line that is lost at any moment of connecting ends in an error of the query, and in nothing else', async () => {
  const line = await cuttableLine(url);
  let lost = 0;
  for (let i = 0; i < 96; i++) {
    const far = connect(line.url, { max: 1, connect_timeout: 5 });
    const asked = far`select 1`.catch((error) => {
      expect(isAway(error)).toBe(true);
      lost++;
    });
    await new Promise((resolve) => setTimeout(resolve, i % 12));
    line.cut();
    line.mend();
    await asked;
    await far.end({ timeout: 0 });
  }
  expect(lost).toBeGreaterThan(0);
  line.close();
}, 60000);
