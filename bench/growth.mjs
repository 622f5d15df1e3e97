// Large submissions: what they cost beside one of a tenth of the size. Linear growth is 10.
import { group, intake, length, list, text, whole } from 'jestril';
import { paired } from './paired.mjs';

const entries = (count) => Array.from({ length: count }, (_, index) => ({ name: `Name ${index}`, age: index % 90 }));
const crew = intake('crew', {
  crew: list('Crew', group('Member', { name: text('Name', length({ max: 80 })), age: whole('Age') }), length({ max: 2000 })),
});
const names = (count) => Array.from({ length: count }, (_, index) => `field${index}`);
const wide = (count) => intake(`wide-${count}`, Object.fromEntries(names(count).map((name) => [name, text(name)])));
const filled = (count) => Object.fromEntries(names(count).map((name) => [name, 'x']));
const deep = (levels) => (levels === 0 ? group('G', { name: text('Name') }) : group('G', { name: text('Name'), inner: deep(levels - 1) }));
const nested = (levels) => (levels === 0 ? { name: 'x' } : { name: 'x', inner: nested(levels - 1) });

/** @returns rows of what is measured, its ratio, and what linear growth would be */
export function growth() {
  const grow = (small, large, by) => {
    const [less, more] = paired([small, large], { rounds: 20, warm: 500 });
    return { value: more / less, target: by * 1.25 };
  };
  const [ten, twoHundred] = [wide(20), wide(200)];
  const [one, tenLevels] = [intake('one', { g: deep(0) }), intake('ten', { g: deep(9) })];
  return [
    {
      what: 'a list of 1,000 entries beside one of 100',
      ...grow(
        () => crew.judgeLocally({ crew: entries100 }),
        () => crew.judgeLocally({ crew: entries1000 }),
        10,
      ),
    },
    {
      what: 'a form of 200 fields beside one of 20',
      ...grow(
        () => ten.judgeLocally(filled20),
        () => twoHundred.judgeLocally(filled200),
        10,
      ),
    },
    {
      what: 'ten levels of nesting beside one',
      ...grow(
        () => one.judgeLocally({ g: nested(0) }),
        () => tenLevels.judgeLocally({ g: nested(9) }),
        10,
      ),
    },
  ];
}
const [entries100, entries1000, filled20, filled200] = [entries(100), entries(1000), filled(20), filled(200)];
