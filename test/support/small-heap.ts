import { larger } from './larger.ts';
import { doorTo, FIELDS, ROWS } from './larger-door.ts';

// Sends odd things, several of each at a time. Whoever starts it gives it a small heap, which ends the process when it does not suffice.

const AT_ONCE = 5;
const handle = doorTo('everything');
let answered = 0;
for (const accept of ['application/json', 'text/html'])
  for (const { headers, body } of larger(FIELDS, ROWS, 99_000)) {
    const sent = () => handle(new Request('https://x.example/', { method: 'POST', headers: { accept, ...headers }, body }));
    const answers = await Promise.all(Array.from({ length: AT_ONCE }, async () => (await sent()).text()));
    answered += answers.length;
  }
console.log(answered);
