package dev.brume.insight.diff;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.Brume;
import dev.brume.CalendarName;
import dev.brume.DefinitionSet;
import dev.brume.EditConflictException;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.history.ChangeFilter;
import dev.brume.memory.MemoryStore;
import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.DayCalendar;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.Terms;
import dev.brume.schedule.Zones;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** What a set of definitions would change, and that nothing is changed which is not as it was seen. */
class DefinitionDiffTest {
    private static final Instant NOW = Instant.parse("2026-05-04T12:00:00Z");
    private static final CalendarName FEASTS = new CalendarName(JobName.MAIN, "feasts");

    private final Brume brume =
            Brume.on(new MemoryStore(() -> NOW)).instance("office").build();

    @AfterEach
    void close() {
        brume.close();
    }

    private static Job.Builder tides(String cron) {
        return Job.named("tides").cron(cron, "UTC").program("true");
    }

    private static DefinitionSet set(Job.Builder... jobs) {
        return DefinitionSet.of(
                "harbour.yaml", List.of(jobs).stream().map(Job.Builder::build).toList());
    }

    private DefinitionDiff diff(DefinitionSet set) {
        return DefinitionDiff.of(set, brume.history(), NOW, Duration.ofDays(7));
    }

    private static JobDiff job(DefinitionDiff diff, String name) {
        return diff.jobs().stream()
                .filter(job -> job.name().equals(JobName.parse(name)))
                .findFirst()
                .orElseThrow();
    }

    @Test
    void whatIsInForceAlreadyIsNoDifference() {
        DefinitionSet set = set(tides("0 4 * * *"));
        brume.define(set);

        assertThat(diff(set).isNone()).isTrue();
        assertThat(diff(set).seen().jobs()).containsEntry(JobName.parse("tides"), 1);
    }

    @Test
    void newChangedAndGoneJobsAreToldApartAndTheShiftOfOccurrencesIsExact() {
        brume.define(set(
                tides("0 4 * * *"),
                Job.named("lamps").program("true"),
                Job.named("reef").program("true")));
        brume.define(DefinitionSet.of(
                "other.yaml", List.of(Job.named("bridge").program("true").build())));

        DefinitionDiff diff = diff(set(
                tides("0 4,16 * * MON-FRI").priority(7),
                Job.named("lamps").program("true"),
                Job.named("quay").every(Duration.ofDays(1)).program("true"),
                Job.named("bridge").program("true")));

        assertThat(job(diff, "lamps").kind()).isEqualTo(JobDiff.Kind.UNCHANGED);
        assertThat(job(diff, "reef").kind()).isEqualTo(JobDiff.Kind.GONE);
        assertThat(job(diff, "quay").kind()).isEqualTo(JobDiff.Kind.NEW);
        assertThat(job(diff, "quay").shift().orElseThrow().added()).hasSize(7);
        assertThat(job(diff, "bridge").movesFrom()).contains("other.yaml");
        JobDiff tides = job(diff, "tides");
        assertThat(tides.version()).isEqualTo(1);
        assertThat(tides.lines())
                .contains("+ priority: 7")
                .anyMatch(line -> line.startsWith("- when: [{cron: 0 4 * * *"));
        Shift shift = tides.shift().orElseThrow();
        assertThat(shift.before()).isEqualTo(7);
        assertThat(shift.after()).isEqualTo(10);
        assertThat(shift.gone())
                .extracting(Occurrence::instant)
                .containsExactly(Instant.parse("2026-05-09T04:00:00Z"), Instant.parse("2026-05-10T04:00:00Z"));
        assertThat(shift.added())
                .hasSize(5)
                .allMatch(each -> each.instant().toString().contains("T16:00"));
    }

    @Test
    void whatASourceDefinedInOtherNamespacesIsNotGone() {
        Job.Builder ferries = Job.named("ferry/boards").program("true");
        brume.define(set(Job.named("harbour/lamps").program("true"), ferries));

        assertThat(diff(set(Job.named("harbour/tides").program("true"))).jobs())
                .extracting(job -> job.name() + " " + job.kind())
                .containsExactlyInAnyOrder("harbour/tides NEW", "harbour/lamps GONE");
        assertThat(diff(set().within("ferry")).jobs())
                .extracting(job -> job.name() + " " + job.kind())
                .containsExactly("ferry/boards GONE");
        assertThatThrownBy(() -> set(ferries).within("harbour"))
                .hasMessage("job 'ferry/boards' is not in the namespace harbour");
    }

    @Test
    void calendarsAndLimitsAreComparedAndACalendarMovesItsJobs() {
        DayCalendar feasts = DayCalendar.ofDates("feasts", List.of(LocalDate.of(2026, 5, 20)));
        Job.Builder tides = Job.named("tides")
                .schedule(CronSchedule.parse("0 4 * * *", Zones.parse("UTC"))
                        .with(Terms.NONE.notOn(DayCalendar.missing("feasts"))))
                .program("true");
        brume.define(set(tides).withCalendars(Map.of(FEASTS, feasts)).withLimits(Map.of("crane", 1)));

        DayCalendar more = DayCalendar.ofDates("feasts", List.of(LocalDate.of(2026, 5, 6), LocalDate.of(2026, 5, 20)));
        DefinitionDiff diff =
                diff(set(tides).withCalendars(Map.of(FEASTS, more)).withLimits(Map.of("crane", 2, "quay", 1)));

        assertThat(diff.calendars()).containsExactly(new DefinitionDiff.CalendarDiff(FEASTS, 1, 1));
        assertThat(diff.limits())
                .containsExactly(
                        new DefinitionDiff.LimitDiff("crane", 1, 2, Optional.empty(), Optional.empty()),
                        new DefinitionDiff.LimitDiff("quay", 0, 1, Optional.empty(), Optional.empty()));
        assertThat(job(diff, "tides").shift().orElseThrow().gone())
                .extracting(Occurrence::instant)
                .containsExactly(Instant.parse("2026-05-06T04:00:00Z"));
    }

    @Test
    void anEditOfALimitThatSomeoneElseResizedMeanwhileIsRefusedWhole() {
        brume.define(set(tides("0 4 * * *")).withLimits(Map.of("crane", 1)));
        DefinitionSet mine = set(tides("0 5 * * *")).withLimits(Map.of("crane", 2));
        DefinitionDiff seen = diff(mine);
        brume.define(set(tides("0 4 * * *")).withLimits(Map.of("crane", 3)));

        assertThatThrownBy(() -> brume.orders("mara", "summer").define(mine, seen.seen()))
                .isInstanceOf(EditConflictException.class)
                .hasMessageContaining("limit crane was of size 1 when you looked, and is of size 3 now");
        assertThat(job(diff(mine), "tides").version()).isEqualTo(1);

        brume.orders("mara", "summer").define(mine, diff(mine).seen());

        assertThat(diff(mine).limits()).isEmpty();
    }

    @Test
    void anEditOfWhatSomeoneElseChangedMeanwhileIsRefusedWhole() {
        brume.define(set(tides("0 4 * * *")));
        DefinitionSet mine = set(tides("0 5 * * *"), Job.named("quay").program("true"));
        DefinitionDiff seen = diff(mine);
        brume.define(set(tides("0 6 * * *")));

        assertThatThrownBy(() -> brume.orders("mara", "summer").define(mine, seen.seen()))
                .isInstanceOf(EditConflictException.class)
                .hasMessageContaining("job tides was of version 1 when you looked, and is of version 2 now");
        assertThat(brume.history().job(JobName.parse("quay"))).isEmpty();
        assertThatThrownBy(() -> brume.orders("mara", "").drop(JobName.parse("tides"), seen.seen()))
                .isInstanceOf(EditConflictException.class);

        brume.orders("mara", "summer").define(mine, diff(mine).seen());

        assertThat(brume.history().changes(ChangeFilter.newest(2))).allSatisfy(line -> {
            assertThat(line.change().who()).isEqualTo("mara");
            assertThat(line.change().because()).isEqualTo("summer");
        });
        assertThat(diff(mine).isNone()).isTrue();
    }

    @Test
    void anOlderRevisionThanWasAppliedIsSaidToBeOutdated() {
        brume.define(set(tides("0 4 * * *")).withRevision(7));
        DefinitionSet older = set(tides("0 5 * * *")).withRevision(6);

        assertThat(diff(older).isOutdated(older)).isTrue();
        assertThat(diff(older.withRevision(8)).isOutdated(older.withRevision(8)))
                .isFalse();
    }
}
