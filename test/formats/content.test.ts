import { intake, type Upload, upload } from 'jestril';
import { fileContent } from 'jestril/content';

// What a file is, by its bytes: nothing that a browser would run passes for something to look at.

const bytes = (text: string) => new Uint8Array(Buffer.from(text, 'latin1'));
const IMAGES = {
  'image/png': 'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAIAAACQd1PeAAAADElEQVR4nGP4z8AAAAMBAQDJ/pLvAAAAAElFTkSuQmCC',
  'image/jpeg':
    '/9j/4AAQSkZJRgABAQAAAQABAAD/2wBDAFA3PEY8MlBGQUZaVVBfeMiCeG5uePWvuZHI////////////////////////////////////////////////////2wBDAVVaWnhpeOuCguv/////////////////////////////////////////////////////////////////////////wAARCAABAAEDASIAAhEBAxEB/8QAFQABAQAAAAAAAAAAAAAAAAAAAAP/xAAUEAEAAAAAAAAAAAAAAAAAAAAA/8QAFQEBAQAAAAAAAAAAAAAAAAAAAwT/xAAUEQEAAAAAAAAAAAAAAAAAAAAA/9oADAMBAAIRAxEAPwCQA1j/2Q==',
  'image/gif': 'R0lGODlhAQABAPAAAP8AAP///yH5BAAAAAAAIf8LSW1hZ2VNYWdpY2sNZ2FtbWE9MC40NTQ1NQAsAAAAAAEAAQAAAgJEAQA7',
  'image/webp': 'UklGRhwAAABXRUJQVlA4TA8AAAAvAAAAAAcQ/Y/+ByKi/wEA',
  'image/bmp': 'Qk1CAAAAAAAAAD4AAAAoAAAAAQAAAAEAAAABAAEAAAAAAAQAAAAAAAAAAAAAAAIAAAACAAAAAAD/AP///wAAAAAA',
  'image/x-icon': 'AAABAAEAAQECAAEAAQA4AAAAFgAAACgAAAABAAAAAgAAAAEAAQAAAAAABAAAAAAAAAAAAAAAAgAAAAIAAAAAAP8A////AAAAAAAAAAAA',
};
const images = Object.entries(IMAGES).map(([type, base64]) => [type, new Uint8Array(Buffer.from(base64, 'base64'))] as const);
const PAGE = '<html><script>alert(document.domain)</script>';

const judged = (types: readonly string[], content: Uint8Array, more: Partial<Upload> = {}) => {
  const form = intake('form', { file: upload('File', fileContent(types)) });
  return form.judgeLocally({ file: { name: 'a', mediaType: 'image/png', size: content.length, content, ...more } }).outcome;
};

test.each(images)('%s is what it is, and nothing else', (type, content) => {
  expect([judged([type], content), judged(['image/*'], content), judged(['application/pdf', 'audio/*'], content)]).toEqual([
    'accepted',
    'accepted',
    'rejected',
  ]);
  // A file of which only the beginning is known.
  const head = content.subarray(0, 40);
  expect(judged([type], content, { head, content: '/kept/7' } as never)).toBe('rejected');
});

test.each(images)('a page behind any beginning of %s is none', (type, content) => {
  for (let length = 0; length <= content.length; length++) {
    const page = new Uint8Array([...content.subarray(0, length), ...bytes(PAGE)]);
    expect([length, judged([type, 'image/*'], page)]).toEqual([length, 'rejected']);
  }
});

test.each(images)('%s whose bytes are cut or changed is told by its structure', (type, content) => {
  const header = type === 'image/x-icon' ? 4 : type === 'image/bmp' ? 2 : type === 'image/jpeg' ? 4 : 12;
  const junk = new Uint8Array([...content.subarray(0, header), ...bytes('is what follows, and no picture at all.')]);
  expect(judged([type, 'image/*'], junk)).toBe('rejected');
});

test.each([
  ['SVG', '<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>', 'image/svg+xml'],
  ['XML', '<?xml version="1.0"?><a/>', 'application/xml'],
  ['PDF', '%PDF-1.7\n', 'application/pdf'],
])('%s runs scripts: it is asked for by its name', (_what, text, type) => {
  const kind = type.replace(/\/.*/, '/*');
  expect([judged([kind], bytes(text)), judged([type], bytes(text))]).toEqual(['rejected', 'accepted']);
});

test('where nobody has looked at the bytes, it cannot be decided', () => {
  const form = intake('form', { file: upload('File', fileContent(['image/png'])) });
  const verdict = form.judgeLocally({ file: new File(['x'], 'a.png', { type: 'image/png' }) });
  expect([verdict.outcome, verdict.unsettled.map(({ why }) => why)]).toEqual(['undecided', ['fault']]);
});
