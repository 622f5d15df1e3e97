/** What became of a rule, for people. */
export const WHAT = { held: 'held', failed: 'failed', skipped: 'skipped', unsettled: 'not decided' } as const;

/** The lines that a group is listed in: what did not hold first. */
export const ORDER = ['failed', 'unsettled', 'skipped', 'held'] as const;
