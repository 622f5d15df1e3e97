import type { Day } from '../basics/days.ts';
import type { CalendarCondition } from '../plan/plan.ts';
import { type Coming, declared } from './coming.ts';

const sort: Coming<CalendarCondition> = {
  name: 'calendar',
  come: ({ from, until }, _guards, { at: { today } }) => ((from ?? today) <= today && today <= (until ?? today) ? 'holds' : 'fails'),
};

/** Holds from a day on, or until one. */
export const between = (from: Day | undefined, until: Day | undefined) =>
  declared(({ zone }) => {
    zone('a condition of the calendar');
    return { sort, of: [], from, until };
  });
