import type { OccasionCondition } from '../plan/plan.ts';
import { type Coming, declared } from './coming.ts';

const sort: Coming<OccasionCondition> = {
  name: 'occasion',
  come: ({ names }, _guards, { settings }) => (names.includes(settings.occasion) ? 'holds' : 'fails'),
};

/** Holds on some occasions of the intake. */
export const onOccasions = (names: readonly string[]) =>
  declared(({ occasions }) => {
    occasions(names);
    return { sort, of: [], names };
  });
