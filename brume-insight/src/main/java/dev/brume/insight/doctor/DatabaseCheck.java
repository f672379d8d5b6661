package dev.brume.insight.doctor;

import dev.brume.history.ChangeFilter;
import dev.brume.history.ChangeView;
import dev.brume.history.Health;
import dev.brume.history.History;
import dev.brume.history.LineSums;
import dev.brume.history.Retention;
import dev.brume.history.Timeframe;
import dev.brume.insight.tally.RollUpCheck;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Locale;
import java.util.function.Function;
import java.util.stream.Stream;

/** The part of a checkup that is about the database: its schema, its clock, its settings, what blocks it and how it grows. */
final class DatabaseCheck {
    private static final Duration APPLIED_WITHIN = Duration.ofHours(12);
    private static final Duration LATELY = Duration.ofDays(1);
    private static final Duration HARMFUL = Duration.ofMinutes(5);
    private static final long MANY_DEAD = 20_000;
    private static final long DEAD_FOR_EACH = 5;
    private static final String LEDGER = "brume_ledger";
    private static final long MANY_LINES = 10_000_000;
    private static final long MANY_IN_THE_REST = 1_000_000;
    private static final int MOST_CHANGES = 20;
    private static final Duration HOUR = Duration.ofHours(1);
    private static final int HOURS = 24 * 30;
    /** Without a factor in common with the hours, so that each of them has its turn. */
    private static final int TURNS = 271;

    private final Health health;
    private final History history;
    private final Instant now;
    private final Function<Instant, String> times;
    private final Findings found;

    DatabaseCheck(Health health, History history, Instant now, Function<Instant, String> times, Findings found) {
        this.health = health;
        this.history = history;
        this.now = now;
        this.times = times;
        this.found = found;
    }

    void look() {
        schema();
        clock();
        health.settings()
                .forEach(setting -> found.problem(
                        "durability",
                        "",
                        setting.name() + " is " + setting.value() + ", so a crash can lose commits",
                        "make " + setting.name() + " " + setting.wanted() + " and restart what serves the database"));
        health.locked()
                .forEach(job -> found.problem(
                        "locked row",
                        job.toString(),
                        "has been due for long, and its row is locked by someone else's transaction",
                        "end that transaction; nothing of this job is planned until then"));
        found.each(
                health.transactions().stream()
                        .filter(each -> Duration.between(each.since(), now).compareTo(HARMFUL) > 0)
                        .toList(),
                "old transaction",
                each -> found.warning(
                        "old transaction",
                        each.name(),
                        "has been open since " + times.apply(each.since()) + ": " + each.what(),
                        "end it if nobody needs it; as long as it is open, the database cannot clean up after live runs"));
        growth();
        rollUp();
    }

    /** The sums of two hours: of the last that is over, and of another one each hour, so that all come up in time. */
    private void rollUp() {
        Instant over = LineSums.hourOf(now);
        long turn = over.getEpochSecond() / HOUR.toSeconds();
        Instant other = over.minus(HOUR.multipliedBy(2 + Math.floorMod(turn * TURNS, HOURS)));
        List<RollUpCheck.Difference> wrong = Stream.of(over.minus(HOUR), other)
                .map(hour -> Timeframe.between(hour, hour.plus(HOUR)))
                .flatMap(frame -> RollUpCheck.differences(history, frame).stream())
                .toList();
        found.each(
                wrong,
                "roll-up",
                each -> found.problem(
                        "roll-up",
                        each.job().toString(),
                        "of the hour from " + times.apply(each.from()) + ", " + each.inLines()
                                + " lines are in the ledger, and " + each.inSums()
                                + " in its sums, by which tally and stats go",
                        "brume tally --line-by-line counts lines; brume seal verify says whether some were altered, brume roll-up"
                                + " --anew sums up again"));
    }

    private void schema() {
        health.schema().ifPresent(version -> {
            if (version > health.ownSchema()) {
                found.note(
                        "schema",
                        "",
                        "the tables are of version " + version + ", and this software brings " + health.ownSchema()
                                + "; it works beside the next version",
                        "update the software when all instances can be");
            } else if (version < health.ownSchema()) {
                found.problem(
                        "schema",
                        "",
                        "the tables are of version " + version + ", and this software needs " + health.ownSchema(),
                        "start an instance that may change tables, or run what brume schema prints");
            }
        });
    }

    private void clock() {
        List<ChangeView> jumps = lately("CLOCK_JUMPED");
        if (!jumps.isEmpty()) {
            ChangeView last = jumps.get(0);
            found.warning(
                    "clock",
                    "",
                    "the database's clock jumped against the instances' " + times(jumps.size())
                            + " within a day, last at " + times.apply(last.at()) + " (seen by "
                            + last.change().who() + ": " + last.change().text() + ")",
                    "look at the time service of the database server, or at hosts that were suspended");
        }
        List<ChangeView> epochs = lately("EPOCH_RAISED");
        if (!epochs.isEmpty()) {
            found.note(
                    "epoch",
                    "",
                    "the database became an older copy of itself at "
                            + times.apply(epochs.get(0).at()) + ": "
                            + epochs.get(0).change().text(),
                    "runs of that moment may have run twice in effect; brume runs lists them");
        }
    }

    private static String times(int count) {
        return count == 1 ? "once" : (count == MOST_CHANGES ? "at least " : "") + count + " times";
    }

    private List<ChangeView> lately(String kind) {
        return history.changes(ChangeFilter.newest(MOST_CHANGES).withKind(kind).from(now.minus(LATELY)));
    }

    private void growth() {
        for (Health.Table table : health.tables()) {
            if (table.dead() > MANY_DEAD && table.dead() > DEAD_FOR_EACH * table.rows()) {
                String cleaned = table.cleaned()
                        .map(at -> "last cleaned up at " + times.apply(at))
                        .orElse("not cleaned up so far");
                found.warning(
                        "vacuum",
                        table.name(),
                        String.format(
                                Locale.ROOT,
                                "%,d dead rows beside %,d live ones, %s",
                                table.dead(),
                                table.rows(),
                                cleaned),
                        "look for old transactions, and at the settings of autovacuum; by hand: vacuum "
                                + table.name());
            }
        }
        Retention retention = history.retention();
        boolean bounded = !retention.total().isAll() || !retention.jobs().isEmpty();
        Instant due = history.now().minus(APPLIED_WITHIN);
        boolean longAtWork = history.sessions(/* ended= */ false).stream()
                .anyMatch(session -> session.row().openedAt().isBefore(due));
        if (bounded && longAtWork && retention.appliedAt().filter(due::isBefore).isEmpty()) {
            found.note(
                    "retention",
                    "the ledger",
                    retention
                            .appliedAt()
                            .map(at -> "its bounds were last applied at " + times.apply(at))
                            .orElse("it has bounds, which nobody has applied so far"),
                    "instances whose database user may remove lines do it every six hours; others leave it to whoever runs"
                            + " 'brume keep --apply'");
        }
        // On PostgreSQL it lies in a table for each month, and one for what was planned in none of them.
        List<Health.Table> ledger = health.tables().stream()
                .filter(table -> table.name().startsWith(LEDGER))
                .toList();
        long lines = ledger.stream().mapToLong(Health.Table::rows).sum();
        if (lines > MANY_LINES && retention.total().isAll()) {
            found.note(
                    "growth",
                    LEDGER,
                    String.format(
                            Locale.ROOT,
                            "holds about %,d lines, %,d MiB, and nothing bounds it",
                            lines,
                            ledger.stream().mapToLong(Health.Table::bytes).sum() >> 20),
                    "brume keep --for 400d, if the record need not be kept for ever");
        }
        ledger.stream()
                .filter(table -> table.name().equals(LEDGER + "_rest") && table.rows() > MANY_IN_THE_REST)
                .forEach(table -> found.note(
                        "months",
                        table.name(),
                        String.format(
                                Locale.ROOT,
                                "holds about %,d lines of months that had no table of their own, so they will be removed line by line",
                                table.rows()),
                        "months to come get theirs from instances that may call brume_add_months (brume schema --application ... grants that);"
                                + " for past ones, the owner of the tables calls it before they are filled"));
    }
}
