/**
 * Runs two contenders in turns and compares them.
 *
 * @param {() => unknown} measured
 * @param {() => unknown} baseline
 * @param {object} turns `least` is the time of one measurement in milliseconds, for coarse clocks: contenders are run as
 *   often as it takes
 * @returns {{ ratio: number, low: number, high: number }} of the times, measured to baseline
 */
export function paired(measured, baseline, { pairs, warmups, least = 0 }) {
  for (let turn = 0; turn < warmups; turn++) {
    measured();
    baseline();
  }
  const ratios = [];
  const once = least && Math.max(timeOf(measured, 1), timeOf(baseline, 1), 0.005);
  const runs = once ? Math.ceil(least / once) : 1;
  for (let pair = 0; pair < pairs; pair++) {
    const isFirst = pair % 2 === 0;
    const early = timeOf(isFirst ? measured : baseline, runs);
    const late = timeOf(isFirst ? baseline : measured, runs);
    ratios.push(isFirst ? early / late : late / early);
  }
  return summary(ratios);
}

/** Compares asynchronous contenders. */
export async function pairedInTime(measured, baseline, { pairs, warmups, least = 0 }) {
  for (let turn = 0; turn < warmups; turn++) {
    await measured();
    await baseline();
  }
  const ratios = [];
  const once = least && Math.max(await timeInTime(measured, 1), await timeInTime(baseline, 1), 0.005);
  const runs = once ? Math.ceil(least / once) : 1;
  for (let pair = 0; pair < pairs; pair++) {
    const isFirst = pair % 2 === 0;
    const early = await timeInTime(isFirst ? measured : baseline, runs);
    const late = await timeInTime(isFirst ? baseline : measured, runs);
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

/** Returns milliseconds. */
function timeOf(run, runs) {
  const start = performance.now();
  for (let count = 0; count < runs; count++) run();
  return performance.now() - start;
}

async function timeInTime(run, runs) {
  const start = performance.now();
  for (let count = 0; count < runs; count++) await run();
  return performance.now() - start;
}
