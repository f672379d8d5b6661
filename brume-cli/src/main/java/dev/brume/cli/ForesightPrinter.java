package dev.brume.cli;

import dev.brume.DefinitionSet;
import dev.brume.JobName;
import dev.brume.insight.rehearsal.Crew;
import dev.brume.insight.rehearsal.Foresight;
import dev.brume.insight.rehearsal.Foresight.JobForesight;
import dev.brume.schedule.Durations;
import java.io.PrintWriter;
import java.time.Duration;
import java.time.ZoneId;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.stream.Collectors;

/** Shows what a rehearsal came to. */
final class ForesightPrinter {
    private static final int MOST_TOUCHED = 12;

    private final LookOptions look;
    private final PrintWriter out;
    private final Palette palette;
    private final ZoneId zone;

    ForesightPrinter(LookOptions look, PrintWriter out) {
        this.look = look;
        this.out = out;
        this.palette = look.palette();
        this.zone = look.viewerZone();
    }

    void head(DefinitionSet set, Crew crew, String takes, Foresight seen) {
        String lanes = crew.lanes().entrySet().stream()
                .sorted(Map.Entry.comparingByKey())
                .map(lane -> lane.getKey() + "=" + lane.getValue())
                .collect(Collectors.joining(", "));
        wrapped("Rehearsed " + set.source() + " from " + Times.withOffset(Times.cut(seen.from()), zone) + " until "
                + Times.withOffset(Times.cut(seen.until()), zone) + " with "
                + DiffPrinter.count(crew.instances(), "instance") + " (" + lanes
                + (crew.labels().isEmpty() ? "" : "; " + String.join(", ", new TreeSet<>(crew.labels()))) + "); "
                + takes
                + ".");
        out.println();
    }

    private void wrapped(String text) {
        Wrap.lines(text, look.width(), 0).forEach(out::println);
    }

    void print(Foresight seen) {
        List<JobForesight> notable =
                seen.jobs().stream().filter(JobForesight::isNotable).toList();
        long total = seen.jobs().stream().mapToLong(JobForesight::runs).sum();
        if (!notable.isEmpty()) {
            jobs(notable);
            out.println();
        }
        int punctual = seen.jobs().size() - notable.size();
        wrapped(DiffPrinter.count(total, "run") + " in all; "
                + (notable.isEmpty() ? "all " : "") + DiffPrinter.count(punctual, "job")
                + " on time every time, and never busy when due");
        for (JobForesight job : seen.jobs()) {
            job.want()
                    .ifPresent(want -> wrapped(palette.word("PROBLEM") + "  " + job.name() + ": " + want + "; "
                            + DiffPrinter.count(job.open(), "run") + " waiting in the end"));
        }
        busiest(seen);
        lanes(seen);
        touched(seen);
    }

    private void jobs(List<JobForesight> notable) {
        Table table = new Table(look)
                .column("JOB")
                .fold()
                .numbers("RUNS")
                .numbers("BUSY")
                .numbers("SKIPPED")
                .numbers("WAITED")
                .numbers("OPEN")
                .numbers("LATE 99 %")
                .numbers("LATEST");
        notable.forEach(job -> table.row(
                job.name(),
                job.runs(),
                some(job.busy()),
                some(job.skippedInAll() + job.passedOver()),
                some(job.waited()),
                some(job.open()),
                job.late().map(late -> took(late.p99())).orElse(""),
                job.latest().map(ForesightPrinter::took).orElse("")));
        table.lines().forEach(out::println);
    }

    /** Instances look in turn, a moment apart: that is not late. */
    private static String took(Duration late) {
        return late.compareTo(Duration.ofMillis(5)) < 0 ? "0ms" : Durations.about(late);
    }

    private static String some(long count) {
        return count == 0 ? "" : Long.toString(count);
    }

    private void busiest(Foresight seen) {
        if (seen.busiest().isEmpty()) {
            return;
        }
        out.println();
        out.println(palette.bold("The busiest minutes") + ", in " + Times.name(zone));
        Table table = new Table(look).column("").numbers("BEGIN").numbers("AT ONCE");
        seen.busiest()
                .forEach(minute -> table.row(
                                Times.local(minute.minute(), zone).replaceFirst(":00$", ""),
                                minute.begun(),
                                minute.running())
                        .below(minute.jobs().stream().map(JobName::toString).collect(Collectors.joining(", "))
                                + (minute.begun() > minute.jobs().size() ? ", ..." : "")));
        table.lines().forEach(out::println);
    }

    private void lanes(Foresight seen) {
        out.println();
        out.println(palette.bold("Lanes"));
        seen.lanes()
                .forEach(lane -> out.println("  " + lane.lane() + "  at most " + lane.most() + " of "
                        + DiffPrinter.count(lane.workers(), "worker") + " busy at once, "
                        + String.format(Locale.ROOT, "%.1f %%", 100 * lane.share()) + " of all their time"
                        + (lane.most() == lane.workers() ? palette.word("  WARNING") + " full" : "")));
    }

    private void touched(Foresight seen) {
        if (seen.touched().isEmpty()) {
            return;
        }
        out.println();
        out.println(palette.bold("Touched by a change of clocks"));
        seen.touched().stream()
                .limit(MOST_TOUCHED)
                .forEach(each -> out.println("  " + Times.withOffset(each.at(), zone) + "  "
                        + palette.word(each.note() + ":") + " " + each.job()));
        if (seen.touched().size() > MOST_TOUCHED) {
            out.println("  and " + (seen.touched().size() - MOST_TOUCHED) + " more");
        }
    }

    // Two side by side.

    void compare(String oldName, Foresight old, String newName, Foresight seen) {
        Map<JobName, JobForesight> before = byKey(old);
        Map<JobName, JobForesight> after = byKey(seen);
        TreeSet<JobName> keys = new TreeSet<>(before.keySet());
        keys.addAll(after.keySet());
        Table table = new Table(look)
                .column("JOB")
                .fold()
                .numbers("RUNS")
                .numbers("BUSY")
                .numbers("SKIPPED")
                .numbers("WAITED")
                .numbers("LATEST");
        int same = 0;
        for (JobName key : keys) {
            Optional<JobForesight> a = Optional.ofNullable(before.get(key));
            Optional<JobForesight> b = Optional.ofNullable(after.get(key));
            if (a.isPresent() && b.isPresent() && row(a.get()).equals(row(b.get()))) {
                same++;
                continue;
            }
            List<String> left = a.map(ForesightPrinter::row).orElse(List.of("-", "-", "-", "-", "-"));
            List<String> right = b.map(ForesightPrinter::row).orElse(List.of("-", "-", "-", "-", "-"));
            Object[] cells = new Object[left.size() + 1];
            cells[0] = key;
            for (int i = 0; i < left.size(); i++) {
                cells[i + 1] = left.get(i).equals(right.get(i)) ? left.get(i) : left.get(i) + " -> " + right.get(i);
            }
            table.row(cells);
        }
        if (same < keys.size()) {
            table.lines().forEach(out::println);
            out.println();
        }
        wrapped("from " + oldName + " to " + newName + "; " + DiffPrinter.count(same, "job") + " the same");
        pair("busiest minute", busiest1(old), busiest1(seen));
        Map<String, String> lanesBefore = lanesOf(old);
        lanesOf(seen).forEach((lane, text) -> pair("lane " + lane, lanesBefore.getOrDefault(lane, "-"), text));
    }

    private void pair(String what, String before, String after) {
        out.println("  " + what + ": " + (before.equals(after) ? after + ", as before" : before + " -> " + after));
    }

    private static String busiest1(Foresight seen) {
        return seen.busiest().stream()
                .findFirst()
                .map(minute -> minute.begun() + " begin")
                .orElse("none");
    }

    private static Map<String, String> lanesOf(Foresight seen) {
        Map<String, String> texts = new TreeMap<>();
        seen.lanes()
                .forEach(lane -> texts.put(
                        lane.lane(),
                        "at most " + lane.most() + " of " + lane.workers() + " busy, "
                                + String.format(Locale.ROOT, "%.1f %%", 100 * lane.share())));
        return texts;
    }

    private static List<String> row(JobForesight job) {
        return List.of(
                Long.toString(job.runs()),
                Long.toString(job.busy()),
                Long.toString(job.skippedInAll() + job.passedOver()),
                Long.toString(job.waited()),
                job.latest().map(ForesightPrinter::took).orElse("-"));
    }

    private static Map<JobName, JobForesight> byKey(Foresight seen) {
        Map<JobName, JobForesight> map = new TreeMap<>();
        seen.jobs().forEach(job -> map.put(job.name(), job));
        return map;
    }
}
