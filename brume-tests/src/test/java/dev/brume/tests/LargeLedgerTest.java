package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.Brume;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.history.RunFilter;
import dev.brume.history.RunRow;
import dev.brume.history.RunView;
import dev.brume.spi.LedgerLine;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import java.util.function.Predicate;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** What is found in a ledger that is too large to go through, held against all that is in it. */
@Tag("long")
class LargeLedgerTest {
    private static final JobName TIDES = JobName.parse("tides");
    private static final JobName DUES = JobName.parse("dues");
    private static final int FREQUENT = 55_000;
    private static final int DAYS = 80;

    private final List<LedgerLine> lines = new ArrayList<>();

    private record Failed(Predicate<Integer> which, String error) {}

    @ParameterizedTest
    @EnumSource(Db.class)
    void whatIsSeldomIsFoundWhereverItLies(Db db) {
        try (Db.Fresh fresh = db.fresh();
                Brume brume = Brume.on(fresh.store())
                        .takesPrograms()
                        .instance("office")
                        .build()) {
            brume.define(Job.named(TIDES).program("true").build());
            brume.define(Job.named(DUES).program("true").tag("money").build());
            long tides = brume.history().job(TIDES).orElseThrow().row().id();
            long dues = brume.history().job(DUES).orElseThrow().row().id();
            Instant now = brume.history().now().truncatedTo(ChronoUnit.DAYS);
            Failed never = new Failed(i -> false, "");
            add(fresh, tides, now, Duration.ofSeconds(30), FREQUENT, never);
            add(
                    fresh,
                    dues,
                    now.minusSeconds(3600),
                    Duration.ofDays(1),
                    DAYS,
                    new Failed(i -> i % 9 == 4, "the clerk is at lunch"));
            brume.orders("ines", "").sumUp();
            // What comes into the ledger since is not summed up, however long ago it was planned.
            add(fresh, dues, now.minus(50, ChronoUnit.DAYS), Duration.ofMinutes(7), 3, new Failed(i -> i == 1, "fog"));

            RunFilter some = RunFilter.newest(30);
            found(brume, some.of(DUES));
            found(brume, RunFilter.newest(500).of(DUES));
            found(brume, some.withTag("money").withOutcome(Outcome.FAILED));
            found(brume, some.of(TIDES).withOutcome(Outcome.FAILED));
            found(brume, some.of(DUES).from(now.minus(60, ChronoUnit.DAYS)).until(now.minus(40, ChronoUnit.DAYS)));
            found(brume, some.withError("CLERK"));
            found(brume, some.withError("fog"));
            found(brume, some.of(DUES).withError("fog"));
            found(brume, some.of(DUES).on("quay-2"));
            RunView thirtieth = brume.history().runs(some.of(DUES)).get(29);
            found(
                    brume,
                    some.of(DUES).below(new RunFilter.Below(thirtieth.owed().planned(), thirtieth.id())));
        }
    }

    private void found(Brume brume, RunFilter filter) {
        long job = brume.history()
                .job(filter.job().orElse(DUES))
                .orElseThrow()
                .row()
                .id();
        boolean isOfAJob = filter.job().isPresent() || filter.tag().isPresent();
        List<Long> expected = lines.stream()
                .filter(line -> !isOfAJob || line.owed().job() == job)
                .filter(line -> filter.outcome().map(line.outcome()::equals).orElse(true))
                .filter(line ->
                        filter.from().filter(line.owed().planned()::isBefore).isEmpty())
                .filter(line ->
                        filter.until().map(line.owed().planned()::isBefore).orElse(true))
                .filter(line -> filter.instance()
                        .map(name -> line.attempts().get(0).instance().equals(name))
                        .orElse(true))
                .filter(line -> filter.error()
                        .map(text -> line.attempts()
                                .get(0)
                                .error()
                                .orElse("")
                                .contains(text.toLowerCase(java.util.Locale.ROOT)))
                        .orElse(true))
                .filter(line -> filter.below()
                        .map(below -> line.owed().planned().isBefore(below.planned()))
                        .orElse(true))
                .sorted(Comparator.comparing((LedgerLine line) -> line.owed().planned())
                        .thenComparing(LedgerLine::run)
                        .reversed())
                .limit(filter.limit())
                .map(LedgerLine::run)
                .toList();
        assertThat(brume.history().runs(filter))
                .extracting(RunView::id)
                .as(filter.toString())
                .containsExactlyElementsOf(expected);
    }

    private void add(Db.Fresh fresh, long job, Instant newest, Duration apart, int count, Failed failed) {
        fresh.store().transact(tx -> {
            List<Long> runs = tx.take(count).ids();
            List<LedgerLine> some = new ArrayList<>();
            for (int i = 0; i < count; i++) {
                boolean isBad = failed.which.test(i);
                Instant planned = newest.minus(apart.multipliedBy(i + 1L));
                some.add(new LedgerLine(
                        runs.get(i),
                        RunRow.Owed.scheduled(job, planned, ZoneOffset.UTC),
                        1,
                        "main",
                        planned,
                        isBad ? Outcome.FAILED : Outcome.SUCCEEDED,
                        Optional.empty(),
                        List.of(new Attempt(
                                1,
                                "quay-" + i % 3,
                                new UUID(1, 1),
                                i + 1L,
                                planned,
                                Optional.of(planned.plusSeconds(1)),
                                Optional.of(isBad ? AttemptEnd.FAILED : AttemptEnd.SUCCEEDED),
                                isBad ? Optional.of(failed.error) : Optional.empty(),
                                Optional.empty())),
                        Optional.empty(),
                        Optional.empty()));
            }
            tx.addLines(some);
            lines.addAll(some);
            return null;
        });
    }
}
