package dev.brume.cli;

import dev.brume.JobName;
import dev.brume.insight.rehearsal.Damage;
import dev.brume.insight.rehearsal.Mishaps;
import dev.brume.insight.tally.DeadlineTally;
import dev.brume.notice.Notice;
import dev.brume.schedule.Durations;
import java.io.PrintWriter;
import java.time.Duration;
import java.time.ZoneId;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.stream.Collectors;

/** Prints what came of what went wrong in a rehearsal, perhaps beside the same of other definitions. */
final class DamagePrinter {
    private static final int SHOWN = 20;

    private final LookOptions look;
    private final PrintWriter out;
    private final ZoneId zone;

    DamagePrinter(LookOptions look, PrintWriter out) {
        this.look = look;
        this.out = out;
        this.zone = look.viewerZone();
    }

    void print(Mishaps mishaps, Optional<Damage> before, Damage after, String oldName, String newName) {
        out.println();
        out.println(look.palette().bold("-- what went wrong, and what came of it --"));
        mishaps.losses()
                .forEach(loss -> out.println("  " + loss.instance() + " died at " + Times.dayAndTime(loss.at(), zone)));
        mishaps.outages()
                .forEach(outage -> out.println("  the database was away from " + Times.dayAndTime(outage.from(), zone)
                        + " for " + Durations.format(outage.length())));
        new TreeMap<>(mishaps.slower())
                .forEach((job, factor) -> out.println("  the work of " + job + " took " + factor + " times as long"));
        if (mishaps.isNone()) {
            out.println("  nothing was made to go wrong");
        }
        out.println();
        before.ifPresentOrElse(old -> compare(old, after, oldName, newName), () -> sums(after));
        missed(after.deadlines());
        told(after.told());
    }

    private void sums(Damage damage) {
        Table table = new Table(look)
                .column("JOB")
                .fold()
                .numbers("MISSED")
                .numbers("LOST")
                .numbers("TAKEN OVER")
                .numbers("FAILED")
                .numbers("DEADLINES MISSED");
        TreeSet<JobName> jobs = jobs(damage);
        jobs.forEach(job -> table.row(
                job,
                damage.missed().getOrDefault(job, 0L),
                damage.lost().getOrDefault(job, 0L),
                damage.takenOver().getOrDefault(job, 0L),
                damage.failed().getOrDefault(job, 0L),
                Optional.ofNullable(damage.deadlines().get(job))
                        .map(DeadlineTally::missed)
                        .orElse(0L)));
        if (jobs.isEmpty()) {
            out.println("No job missed anything, lost anything or was too late.");
        } else {
            table.lines().forEach(out::println);
        }
    }

    private static TreeSet<JobName> jobs(Damage damage) {
        TreeSet<JobName> jobs = new TreeSet<>(damage.missed().keySet());
        jobs.addAll(damage.lost().keySet());
        jobs.addAll(damage.takenOver().keySet());
        jobs.addAll(damage.failed().keySet());
        damage.deadlines().forEach((job, kept) -> {
            if (kept.missed() > 0) {
                jobs.add(job);
            }
        });
        return jobs;
    }

    private void compare(Damage old, Damage now, String oldName, String newName) {
        Table table = new Table(look).column("").numbers(oldName).numbers(newName);
        table.row("occurrences missed", Damage.sum(old.missed()), Damage.sum(now.missed()));
        table.row("runs lost", Damage.sum(old.lost()), Damage.sum(now.lost()));
        table.row("attempts taken over", Damage.sum(old.takenOver()), Damage.sum(now.takenOver()));
        table.row("runs failed", Damage.sum(old.failed()), Damage.sum(now.failed()));
        table.row("deadlines missed", old.deadlinesMissed(), now.deadlinesMissed());
        table.row("notices", old.told().size(), now.told().size());
        table.lines().forEach(out::println);
    }

    private void missed(Map<JobName, DeadlineTally> deadlines) {
        List<Map.Entry<JobName, DeadlineTally.Missed>> all = deadlines.entrySet().stream()
                .flatMap(each -> each.getValue().listed().stream().map(one -> Map.entry(each.getKey(), one)))
                .sorted(Comparator.comparing(each -> each.getValue().deadline()))
                .toList();
        if (all.isEmpty()) {
            return;
        }
        out.println();
        out.println("Deadlines that were missed:");
        all.stream()
                .limit(SHOWN)
                .forEach(each -> out.println("  " + each.getKey() + " of "
                        + Times.dayAndTime(each.getValue().planned(), zone) + how(each.getValue())));
        more(all.size());
    }

    private String how(DeadlineTally.Missed missed) {
        String deadline = Times.dayAndTime(missed.deadline(), zone);
        return missed.ended()
                .map(ended ->
                        " ended " + Durations.about(Duration.between(missed.deadline(), ended)) + " after " + deadline)
                .orElse((missed.run().isPresent() ? " had not ended well by " : " had not begun by ") + deadline);
    }

    private void told(List<Notice> told) {
        out.println();
        if (told.isEmpty()) {
            out.println("Nobody would have been told anything.");
            return;
        }
        out.println("What would have been told:");
        Map<String, Integer> channels = new TreeMap<>();
        told.forEach(notice -> channels.merge(notice.channel(), 1, Integer::sum));
        told.stream()
                .limit(SHOWN)
                .forEach(notice -> out.println(
                        "  " + Times.dayAndTime(notice.at(), zone) + "  " + notice.channel() + "  " + notice.title()));
        more(told.size());
        out.println("  in all: "
                + channels.entrySet().stream()
                        .map(each -> DiffPrinter.count(each.getValue(), "notice") + " to " + each.getKey())
                        .collect(Collectors.joining(", ")));
    }

    private void more(int count) {
        if (count > SHOWN) {
            out.println("  and " + (count - SHOWN) + " more");
        }
    }
}
