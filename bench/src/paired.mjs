/**
 * Runs two contenders in turns and compares them.
 *
 * @param {() => unknown} measured
 * @param {() => unknown} baseline
 * @returns {{ ratio: number, low: number, high: number }} of the times, measured to baseline
 */
export function paired(measured, baseline, { pairs, warmups }) {
  for (let turn = 0; turn < warmups; turn++) {
    measured();
    baseline();
  }
  const ratios = [];
  for (let pair = 0; pair < pairs; pair++) {
    const isFirst = pair % 2 === 0;
    const early = timeOf(isFirst ? measured : baseline);
    const late = timeOf(isFirst ? baseline : measured);
    ratios.push(isFirst ? early / late : late / early);
  }
  return summary(ratios);
}

/** Compares asynchronous contenders. */
export async function pairedInTime(measured, baseline, { pairs, warmups }) {
  for (let turn = 0; turn < warmups; turn++) {
    await measured();
    await baseline();
  }
  const ratios = [];
  for (let pair = 0; pair < pairs; pair++) {
    const isFirst = pair % 2 === 0;
    const early = await timeInTime(isFirst ? measured : baseline);
    const late = await timeInTime(isFirst ? baseline : measured);
    ratios.push(isFirst ? early / late : late / early);
  }
  return summary(ratios);
}

/** @param {number[]} ratios */
export function summary(ratios) {
  const sorted = [...ratios].sort((left, right) => left - right);
  const at = (share) => sorted[Math.round((sorted.length - 1) * share)];
  return { ratio: at(0.5), low: at(0.1), high: at(0.9) };
}

function timeOf(run) {
  const start = process.hrtime.bigint();
  run();
  return Number(process.hrtime.bigint() - start);
}

async function timeInTime(run) {
  const start = process.hrtime.bigint();
  await run();
  return Number(process.hrtime.bigint() - start);
}
