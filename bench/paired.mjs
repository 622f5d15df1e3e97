// Samples of all variants alternate in one process, by CPU time, and only their ratios are told: the machine has its moods.

const cpu = () => {
  const { user, system } = process.cpuUsage();
  return user + system;
};

/** How many calls take about so many milliseconds. */
function countFor(run, milliseconds) {
  let count = 0;
  const start = process.hrtime.bigint();
  while (process.hrtime.bigint() - start < BigInt(milliseconds * 1e6)) {
    run();
    count++;
  }
  return Math.max(1, count);
}

/**
 * Microseconds of CPU time of each, by the median of alternating samples.
 *
 * @param {readonly (() => unknown)[]} variants
 */
export function paired(variants, { rounds = 60, milliseconds = 10, warm = 20_000 } = {}) {
  for (const run of variants) for (let count = 0; count < warm; count++) run();
  const counts = variants.map((run) => countFor(run, milliseconds));
  const samples = variants.map(() => []);
  for (let round = 0; round < rounds; round++) {
    for (const [index, run] of variants.entries()) {
      const start = cpu();
      for (let count = 0; count < counts[index]; count++) run();
      samples[index].push((cpu() - start) / counts[index]);
    }
  }
  return samples.map(median);
}

export const median = (values) => [...values].sort((a, b) => a - b)[values.length >> 1];
