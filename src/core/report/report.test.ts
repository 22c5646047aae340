import fc from 'fast-check';
import { type ReportPage, reportHtml } from '.';

const page = (change: Partial<ReportPage>): string =>
  reportHtml({ title: 'Rock', about: ['by night'], sections: [], terms: [], ...change });

test('whatever is in it, its text is text: no element, attribute or script is made of it', () => {
  const text = fc.oneof(
    fc.string(),
    fc.constantFrom('<script>alert(1)</script>', '"><img src=x>', "' onload='x", '&amp;', '</style>'),
  );
  fc.assert(
    fc.property(text, text, text, (a, b, c) => {
      const html = page({
        title: a,
        sections: [
          { title: b, blocks: [{ kind: 'table', head: [c], rows: [[a, b]], figures: 1 }] },
          { title: a, blocks: [{ kind: 'pictures', list: [{ png: new Uint8Array([1]), caption: c }], across: 2 }] },
          {
            title: a,
            blocks: [
              { kind: 'shares', rows: [{ name: c, share: 0.5 }] },
              { kind: 'words', text: b },
            ],
          },
        ],
      });
      const tags = [...html.matchAll(/<\/?([a-z0-9!]+)/gi)].map((m) => m[1].toLowerCase());
      expect(tags.filter((t) => t === 'script')).toEqual([]);
      expect(tags.filter((t) => t === 'img')).toHaveLength(1);
      expect(tags.filter((t) => t === 'style')).toHaveLength(2);
      expect(html).not.toMatch(/\son\w+='/);
    }),
    { numRuns: 60 },
  );
});

test('it asks for nothing beside itself: pictures are in it, and nothing else may be loaded', () => {
  const png = Uint8Array.from({ length: 70000 }, (_, i) => i * 7);
  const html = page({
    sections: [{ title: 'Pictures', blocks: [{ kind: 'pictures', list: [{ png, caption: 'A' }], across: 1 }] }],
  });
  const [, text] = /src="data:image\/png;base64,([^"]+)"/.exec(html)!;
  expect(new Uint8Array(Buffer.from(text, 'base64'))).toEqual(png);
  expect(html).toContain("default-src 'none'");
  expect([...html.matchAll(/(?:src|href)="(?!data:)/g)]).toEqual([]);
});

test('each figure that is used is explained once; sections without anything in them are left out', () => {
  const html = page({ terms: ['noise', 'noise', 'flip'], sections: [{ title: 'Empty', blocks: [] }] });
  expect(html.match(/percent of display white/g)).toHaveLength(1);
  expect(html).toContain('Mean FLIP');
  expect(html).not.toContain('Empty');
});

test('frames are drawn as high as their share of the most; what is not there leaves a gap', () => {
  const bars = [
    { name: '1', noise: 2, seconds: 10, step: null },
    { name: '2', noise: 4, seconds: 5, step: null },
    { name: '3', noise: null, seconds: null, step: null },
  ];
  const html = page({ sections: [{ title: 'Frames', blocks: [{ kind: 'bars', each: 'frame', bars }] }] });
  const heights = [...html.matchAll(/height="([\d.]+)" fill="#6e6e6e"/g)].map((m) => Number(m[1]));
  expect(heights).toEqual([27, 54, 54, 27]);
  expect(html).toContain('frame 2: 4.00 %');
  expect(html).toContain('2.00 – 4.00 %');
  expect(html).not.toContain('>step<');
});
