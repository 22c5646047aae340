import { z } from 'zod';
import { RecipeError } from '@/core/recipe';
import { foreign } from './guard';
import { answer, body, Refusal } from './respond';

const headers = (h: Record<string, string>) => new Headers({ host: '127.0.0.1:4180', ...h });
const ask = (init: RequestInit & { host?: string } = {}) =>
  new Request('http://127.0.0.1:4180/api/x', {
    ...init,
    headers: { host: init.host ?? '127.0.0.1:4180', ...(init.headers as Record<string, string>) },
  });
const error = async (r: Response) => ({ status: r.status, ...(await r.json()).error });

test.each([
  [{}, null],
  [{ host: 'localhost:4180' }, null],
  [{ host: '[::1]:4180' }, null],
  [{ origin: 'http://127.0.0.1:4180' }, null],
  [{ host: 'lighthouse.example' }, /is not this machine/],
  [{ host: '127.0.0.1.lighthouse.example' }, /is not this machine/],
  [{ origin: 'http://lighthouse.example' }, /is not this page/],
  [{ origin: 'null' }, /is not this page/],
  [{ 'sec-fetch-site': 'cross-site' }, /another site/],
])('guard: %j', (h, expected) => {
  const fault = foreign(headers(h as Record<string, string>));
  if (expected === null) expect(fault).toBeNull();
  else expect(fault).toMatch(expected);
});

test.each([
  [
    () => {
      throw new Refusal(404, 'no-shot', 'there is no shot', 'id');
    },
    { status: 404, code: 'no-shot', path: 'id' },
  ],
  [
    () => {
      throw new RecipeError('sampling.seed', 'too large');
    },
    { status: 400, code: 'recipe', path: 'sampling.seed' },
  ],
  [
    () => {
      throw Object.assign(new Error('x'), { code: 'ECONNREFUSED' });
    },
    { status: 503, code: 'database-away' },
  ],
  [() => z.strictObject({ a: z.number() }).parse({ a: 'x' }) as never, { status: 400, code: 'invalid', path: 'a' }],
])('failures are told in the documented form', async (fail, expected) => {
  expect(await error(await answer(ask(), async () => fail()))).toMatchObject(expected);
});

test('a foreign host is refused before anything is done', async () => {
  let done = false;
  const r = await answer(ask({ host: 'lighthouse.example' }), async () => {
    done = true;
    return new Response();
  });
  expect(r.status).toBe(403);
  expect(done).toBe(false);
});

describe('bodies', () => {
  const schema = z.strictObject({ n: z.number() });
  const send = (text: string, type = 'application/json') =>
    answer(ask({ method: 'POST', body: text, headers: { 'content-type': type } }), async () =>
      Response.json(await body(ask({ method: 'POST', body: text, headers: { 'content-type': type } }), schema)),
    );
  test('are checked', async () => {
    expect(await (await send('{"n": 3}')).json()).toEqual({ n: 3 });
    expect(await error(await send('{"n": "3"}'))).toMatchObject({ status: 400, path: 'n' });
    expect(await error(await send('{"n": 3, "m": 1}'))).toMatchObject({ status: 400 });
    expect(await error(await send('{'))).toMatchObject({ status: 400, code: 'not-json' });
    expect(await error(await send('n=3', 'text/plain'))).toMatchObject({ status: 415 });
    expect(await error(await send(`{"n": ${' '.repeat(2 ** 20)}3}`))).toMatchObject({ status: 413 });
  });
  test('with signs that no database holds are refused by their place; whole characters pass', async () => {
    const text = z.strictObject({ a: z.array(z.strictObject({ name: z.string() })) });
    const sent = (name: string) => {
      const request = () =>
        ask({ method: 'POST', body: `{"a":[{"name":"${name}"}]}`, headers: { 'content-type': 'application/json' } });
      return answer(request(), async () => Response.json(await body(request(), text)));
    };
    for (const name of ['lamp\\u0000', 'half \\ud83d', '\\udc00 other half'])
      expect(await error(await sent(name))).toMatchObject({ status: 400, code: 'invalid', path: 'a.0.name' });
    expect((await sent('\\ud83d\\udd26 lamp')).status).toBe(200);
  });
});
