import { Claims } from '../asking/claims.ts';
import { Asker } from '../asking/found.ts';
import { askOutside } from '../asking/outside.ts';
import { Questions } from '../asking/questions.ts';
import { RecordRules, type Shared } from '../asking/record-rules.ts';
import { TimeLimit } from '../asking/time-limit.ts';
import type { Ready } from '../loop/cases.ts';
import type { Run } from '../run/run.ts';
import type { Records } from '../stored/records.ts';
import type { Inputs } from './options.ts';

// Steps 6 and 7 of a judgement, where somebody is asked.

/** Milliseconds that the records may take when the caller sets no limit. */
export const RECORDS_WITHIN = 10_000;

type Asking = Shared & { readonly asker: Asker };

export async function decideByAsking(run: Run, options: Inputs): Promise<void> {
  const { record, outside } = run.plan;
  const ready = record.length > 0 ? await judgeByRecords(run, options, alone(run, options.records)) : [];
  if (outside.length > 0 || ready.length > 0) await askOutside(run, ready);
}

/** Step 6 alone. */
export async function decideByRecords(run: Run, options: Inputs): Promise<void> {
  if (run.plan.record.length > 0) await judgeByRecords(run, options, alone(run, options.records));
}

function alone({ plan }: Run, records?: Records): Asking {
  return { asker: new Asker(new Questions(records?.scope, plan.storedIn)), claims: new Claims(plan) };
}

/** Step 6; gives the outside checks that had to wait for records. */
async function judgeByRecords(run: Run, inputs: Inputs, shared: Asking): Promise<readonly Ready[]> {
  const rules = recordRulesOf(run, inputs, shared);
  return rules && inputs.records ? ((await settleAll([rules], inputs.records, inputs, shared))[0] as readonly Ready[]) : [];
}

/** The record rules of a judgement, where there is something to ask and somebody to answer. */
export function recordRulesOf(run: Run, { records, itself }: Inputs, shared: Asking): RecordRules | undefined {
  const rules = new RecordRules(run, run.plan.record, itself, shared);
  if (rules.isEmpty) return undefined;
  if (records) return rules;
  const { name, collections } = run.plan;
  const looked = collections.map((collection) => `"${collection.name}"`).join(', ');
  rules.leaveOpen(
    'not-asked',
    new Error(`Intake "${name}" looks into ${looked}, and no records were given; give them in the option "records".`),
  );
  return undefined;
}

/** Asks for all these judgements together, and settles each; gives the outside checks that had to wait. */
export async function settleAll(
  all: readonly RecordRules[],
  records: Records,
  { within = RECORDS_WITHIN, signal }: Inputs,
  { asker, claims }: Asking,
  turn?: Promise<unknown>,
): Promise<(readonly Ready[])[]> {
  const limit = new TimeLimit(within, signal);
  try {
    await asker.askRounds(all, records, limit);
    // Rows claim in their order, however soon the store has answered.
    if (turn) await turn;
    const ready = all.map((rules) => {
      claims.nextRow();
      return rules.settle();
    });
    // What the last row has is kept too: others may come, with the same claims.
    claims.nextRow();
    await asker.askRounds(all, records, limit);
    for (const rules of all) rules.tell();
    return ready;
  } finally {
    limit.end();
  }
}
