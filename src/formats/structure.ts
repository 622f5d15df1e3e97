// What follows the first bytes of a format, as far as a file's beginning tells: a header alone is soon written in front of anything.

/** Whether the beginning of a file is what its format wants; of a format that nobody knows here, yes. */
export function hasStructure(type: string, bytes: Uint8Array, size: number): boolean {
  const check = STRUCTURES[type];
  if (!check) return true;
  return check(new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength), size);
}

type Check = (view: DataView, size: number) => boolean;

/** A format's own bytes may end with the beginning that is known; what lies beyond holds. */
const at = (view: DataView, place: number, test: (byte: number) => boolean) => place >= view.byteLength || test(view.getUint8(place));
const isAny = (values: readonly number[]) => (value: number) => values.includes(value);

/** W3C PNG, 11.2.2: the first chunk is IHDR, and its fields have few values. */
const isPng: Check = (view) =>
  view.byteLength >= 29 &&
  view.getUint32(8) === 13 &&
  view.getUint32(12) === 0x49484452 &&
  view.getUint32(16) > 0 &&
  view.getUint32(20) > 0 &&
  isAny([1, 2, 4, 8, 16])(view.getUint8(24)) &&
  isAny([0, 2, 3, 4, 6])(view.getUint8(25)) &&
  view.getUint16(26) === 0 &&
  view.getUint8(28) <= 1;

const STRUCTURES: { readonly [type: string]: Check } = {
  'image/png': isPng,
  'image/apng': isPng,
  // ITU T.81, B.1: segments with their lengths, one after the other, until the scan.
  'image/jpeg': (view, size) => {
    let place = 2;
    for (; place + 4 <= view.byteLength; place += 2 + view.getUint16(place + 2)) {
      const marker = view.getUint8(place + 1);
      if (view.getUint8(place) !== 0xff || marker < 0xc0 || view.getUint16(place + 2) < 2) return false;
      if (marker === 0xda) return true;
    }
    return place < size;
  },
  // GIF89a, 18 to 20: the screen, its colours, then a block that is known.
  'image/gif': (view) => {
    if (view.byteLength < 14 || view.getUint16(6, true) === 0 || view.getUint16(8, true) === 0) return false;
    const flags = view.getUint8(10);
    const colours = flags & 0x80 ? 3 * 2 ** ((flags & 7) + 1) : 0;
    return at(view, 13 + colours, isAny([0x21, 0x2c, 0x3b]));
  },
  // RFC 9649, 2.4: the size of the whole, and the chunk that tells which sort it is.
  'image/webp': (view, size) => {
    const told = view.byteLength < 16 ? -1 : view.getUint32(4, true) + 8;
    return (told === size || told + 1 === size) && isAny([0x56503820, 0x5650384c, 0x56503858])(view.getUint32(12));
  },
  // The size of the whole, and that of a header.
  'image/bmp': (view, size) =>
    view.byteLength >= 18 && isAny([size, 0])(view.getUint32(2, true)) && isAny([12, 40, 52, 56, 64, 108, 124])(view.getUint32(14, true)),
  // Each entry of the directory lies within the file, behind the directory.
  'image/x-icon': (view, size) => {
    const count = view.byteLength < 6 ? 0 : view.getUint16(4, true);
    if (count === 0 || 6 + 16 * count > size) return false;
    for (let place = 6; place < 6 + 16 * count && place + 16 <= view.byteLength; place += 16) {
      const [length, start] = [view.getUint32(place + 8, true), view.getUint32(place + 12, true)];
      if (view.getUint8(place + 3) !== 0 || length === 0 || start < 6 + 16 * count || start + length > size) return false;
    }
    return true;
  },
};

/** What a browser would take for a page, were it to guess (WHATWG MIME Sniffing, 7.1), and what may stand for one elsewhere. */
const MARKUP = /<(?:!doctype|html|head|body|script|iframe|svg|style|title|table|object|embed|math|form|img|link|meta|base|frameset)\b/i;

/** Whether something in these bytes would be taken for markup. */
export function hasMarkup(bytes: Uint8Array): boolean {
  return MARKUP.test(new TextDecoder('latin1').decode(bytes));
}
