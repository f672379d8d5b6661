"use strict";
// How long runs took and how late they began, and where nine of ten and half of the last ten lay.
(async () => {
  const chart = document.querySelector(".chart");
  if (!chart) return;
  let series;
  try {
    const answer = await fetch(chart.dataset.series, { headers: { "Accept": "application/json" }, credentials: "same-origin" });
    if (!answer.ok || answer.redirected) throw new Error(window.brume.wrong(answer.redirected ? 401 : answer.status));
    series = await answer.json();
  } catch (away) {
    chart.textContent = "The durations could not be fetched; load the page again. " + away.message;
    chart.classList.add("empty");
    return;
  }
  const [planned, took, late] = series;
  if (planned.length === 0) {
    chart.textContent = "No run has ended yet.";
    chart.classList.add("empty");
    return;
  }
  const WINDOW = 10;
  const quantile = (values, share) => values.map((_, i) => {
    const some = values.slice(Math.max(0, i - WINDOW + 1), i + 1).sort((a, b) => a - b);
    return some[Math.min(some.length - 1, Math.floor(some.length * share))];
  });
  const colour = name => getComputedStyle(document.documentElement).getPropertyValue(name).trim();
  const zone = chart.dataset.zone;
  const size = value => value == null ? "" : value < 1 ? Math.round(value * 1000) + " ms" : value < 120 ? value.toFixed(1) + " s"
    : value < 7200 ? Math.round(value / 60) + " min" : value < 172800 ? (value / 3600).toFixed(1) + " h" : (value / 86400).toFixed(1) + " d";
  const told = options => {
    const format = new Intl.DateTimeFormat("en-GB", { timeZone: zone, ...options });
    return seconds => format.format(new Date(seconds * 1e3));
  };
  const clock = told({ hour: "2-digit", minute: "2-digit", hourCycle: "h23" });
  const day = told({ day: "numeric", month: "short" });
  const when = seconds => day(seconds) + ", " + clock(seconds);
  // The day is said where it begins.
  const marks = all => all.map((at, i) => clock(at) + (i === 0 || day(at) !== day(all[i - 1]) ? "\n" + day(at) : ""));
  const axis = { stroke: colour("--soft"), grid: { stroke: colour("--line"), width: 1 }, ticks: { stroke: colour("--line") } };
  function draw() {
    chart.replaceChildren();
    for (const [name, values, stroke] of [["took", took, "--ran"], ["began late by", late, "--late"]]) {
      new uPlot({
        width: chart.clientWidth,
        height: 140,
        tzDate: ts => uPlot.tzDate(new Date(ts * 1e3), zone),
        cursor: { drag: { x: true, y: false } },
        legend: { live: false },
        axes: [{ ...axis, space: 70, size: 44, values: (_, all) => marks(all) }, { ...axis, size: 60, values: (_, all) => all.map(size) }],
        series: [
          { label: "planned", value: (_, v) => v == null ? "" : when(v) },
          { label: name, stroke: colour(stroke), width: 1, points: { show: true, size: 5 }, paths: () => null, value: (_, v) => size(v) },
          { label: "half of ten", stroke: colour(stroke), width: 2, points: { show: false }, value: (_, v) => size(v) },
          { label: "nine of ten", stroke: colour("--soft"), width: 1, dash: [4, 3], points: { show: false }, value: (_, v) => size(v) }
        ],
        bands: [{ series: [3, 2], fill: colour("--line") + "66" }]
      }, [planned, values, quantile(values, 0.5), quantile(values, 0.9)], chart);
    }
  }
  draw();
  let timer = null;
  addEventListener("resize", () => { clearTimeout(timer); timer = setTimeout(draw, 200); });
})();
