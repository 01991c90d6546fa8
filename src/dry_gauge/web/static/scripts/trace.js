// The last minutes of what live probes show, as lines to draw.

export const MOST_POINTS = 600, MINUTES = 10;

// One more point on a line of [seconds, value]; what is older than ten minutes, or too many, drops out at the far end.
export const grown = (points, at, value) => {
  const kept = [...points, [at, value]].filter(([when]) => when >= at - MINUTES * 60);
  return kept.slice(-MOST_POINTS);
};

// Whole tens that hold every value, and nothing and twenty at least.
export const bounds = (values) => ({
  low: Math.floor(Math.min(0, ...values) / 10) * 10, high: Math.ceil(Math.max(20, ...values) / 10) * 10,
});
