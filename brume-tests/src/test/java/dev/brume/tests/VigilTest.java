package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Brume;
import dev.brume.Deadline;
import dev.brume.FollowUp;
import dev.brume.IfFailed;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.PauseOrder;
import dev.brume.Run;
import dev.brume.history.CauseRow;
import dev.brume.history.JobView;
import dev.brume.history.Pause;
import dev.brume.insight.deadline.Deadlines;
import dev.brume.insight.deadline.Forecast;
import dev.brume.insight.tally.DeadlineTally;
import dev.brume.insight.tally.PeriodFigures;
import dev.brume.insight.tally.PeriodTally;
import dev.brume.insight.watch.NoticeRehearsal;
import dev.brume.insight.watch.Vigil;
import dev.brume.memory.MemoryStore;
import dev.brume.notice.Channel;
import dev.brume.notice.Notice;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.NoticeRule;
import dev.brume.notice.Telling;
import dev.brume.notice.Trouble;
import dev.brume.notice.Watch;
import dev.brume.notice.Way;
import dev.brume.spi.NoticeHead;
import dev.brume.testkit.VirtualBrume;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.atomic.AtomicReference;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** What is told although nothing happens: lateness, silence, deadlines. */
class VigilTest {
    private static final Instant BEGIN = Instant.parse("2026-12-01T00:00:00Z");

    private final VirtualBrume harbour =
            VirtualBrume.beginning(BEGIN).watching(new Vigil()).lane("main", 4).build();
    private final List<Notice> told = new ArrayList<>();
    private final AtomicReference<Duration> takes = new AtomicReference<>(Duration.ofMinutes(10));

    @AfterEach
    void close() {
        harbour.close();
    }

    private void tells(NoticeRule rule) {
        harbour.brume().receive("duty", told::add);
        harbour.brume()
                .tell(
                        "harbour",
                        Telling.NOTHING
                                .with(Channel.named("/duty", new Way.Code("duty")))
                                .with(rule.to("duty")));
    }

    /** The tables at five, and the print after them, by six. */
    private void definesTides() {
        harbour.brume().define(Job.named("tide-print").endBy(Deadline.at(LocalTime.of(6, 0))), this::works);
        harbour.brume()
                .define(
                        Job.named("tide-tables").cron("0 5 * * *", "UTC").followUp(FollowUp.On.SUCCESS, "tide-print"),
                        this::works);
    }

    private void works(Run run) {
        harbour.elapse(takes.get());
    }

    private List<NoticeKind> kinds() {
        return told.stream().map(Notice::kind).toList();
    }

    private String last() {
        return told.get(told.size() - 1).title();
    }

    @Test
    void silenceIsToldWhoeverIsToBlameAndItsEndOnce() {
        tells(NoticeRule.named("/silence").tell(NoticeKind.SILENT));
        takes.set(Duration.ofSeconds(10));
        harbour.brume()
                .define(
                        Job.named("harbour/dues").cron("0 * * * *", "UTC").successWithin(Duration.ofHours(3)),
                        this::works);
        harbour.advance(Duration.ofHours(2));
        assertThat(told).isEmpty();

        harbour.brume()
                .orders("mara", "the cashier is ill")
                .pause(PauseOrder.of(Pause.Scope.of(JobName.parse("harbour/dues"))));
        harbour.advance(Duration.ofHours(4));

        assertThat(kinds()).containsExactly(NoticeKind.SILENT);
        assertThat(last())
                .startsWith("harbour/dues has not succeeded for 3h")
                .contains("the last success ended 2026-12-01T02:00:10Z");
        assertThat(told.get(0).facts().get("why")).contains("paused");

        harbour.brume().orders("mara", "").resume(Pause.Scope.of(JobName.parse("harbour/dues")));
        harbour.advance(Duration.ofHours(2));
        assertThat(kinds()).containsExactly(NoticeKind.SILENT, NoticeKind.RECOVERED);
    }

    @Test
    void aDeadlineIsToldBeforeItIsMissedByWhatTheChainUsuallyTakes() {
        tells(NoticeRule.named("/deadlines").tell(NoticeKind.DEADLINE_AT_RISK, NoticeKind.DEADLINE_MISSED));
        definesTides();
        harbour.advance(Duration.ofDays(6));
        assertThat(told).isEmpty();
        assertThat(forecast("tide-print").state()).isEqualTo(Forecast.State.MET);

        takes.set(Duration.ofMinutes(70));
        harbour.advance(Duration.ofHours(8));

        assertThat(kinds()).startsWith(NoticeKind.DEADLINE_AT_RISK, NoticeKind.DEADLINE_MISSED);
        Notice early = told.get(0);
        assertThat(early.at()).isBefore(Instant.parse("2026-12-07T06:00:00Z"));
        assertThat(early.title())
                .startsWith("tide-print will end about ")
                .contains("after its deadline of 2026-12-07T06:00:00Z; it waits for tide-tables");
        assertThat(kinds()).last().isEqualTo(NoticeKind.RECOVERED);
        Forecast missed = forecast("tide-print");
        assertThat(missed.state()).isEqualTo(Forecast.State.MISSED);
        assertThat(missed.words("tide-print", harbour.now())).contains("tide-print ended 1h20m after its deadline");
        DeadlineTally kept = kept("tide-print").orElseThrow();
        assertThat(kept.due()).isEqualTo(7);
        assertThat(kept.missed()).isEqualTo(1);
        assertThat(kept.listed().get(0).planned()).isEqualTo("2026-12-07T05:00:00Z");
        assertThat(kept.listed().get(0).deadline()).isEqualTo("2026-12-07T06:00:00Z");
        assertThat(kept.listed().get(0).ended().orElseThrow()).isEqualTo("2026-12-07T07:20:00Z");
        assertThat(kept("tide-tables")).isEmpty();
    }

    /** {@return how a job kept its deadlines of the last thirty days, in the tally and among its figures} */
    private Optional<DeadlineTally> kept(String job) {
        Instant from = harbour.now().minus(Duration.ofDays(30));
        Optional<JobName> only = Optional.of(JobName.parse(job));
        PeriodTally tally = PeriodTally.of(harbour.brume().history(), only, from, harbour.now(), false);
        PeriodFigures figures = PeriodFigures.of(harbour.brume().history(), only, from, harbour.now(), false);
        Optional<DeadlineTally> kept = tally.deadlines(tally.jobs().get(0));
        assertThat(figures.jobs().get(0).deadlines()).isEqualTo(kept);
        return kept;
    }

    @Test
    void aDeadlineGoesByWhenTheLastAttemptEnded() {
        tells(NoticeRule.named("/deadlines").tell(NoticeKind.DEADLINE_MISSED));
        AtomicInteger attempts = new AtomicInteger();
        harbour.brume()
                .define(
                        Job.named("tide-tables")
                                .cron("55 5 * * *", "UTC")
                                .ifFailed(IfFailed.attempts(2, Duration.ofMinutes(10)))
                                .endBy(Deadline.at(LocalTime.of(6, 0))),
                        run -> {
                            if (attempts.incrementAndGet() == 1) {
                                throw new IllegalStateException("no tide");
                            }
                        });
        harbour.advance(Duration.ofHours(8));

        assertThat(attempts).hasValue(2);
        assertThat(kinds()).contains(NoticeKind.DEADLINE_MISSED);
        assertThat(kept("tide-tables").orElseThrow().missed()).isEqualTo(1);
    }

    @Test
    void whatRulesWouldHaveToldIsWhatTheyTold() {
        NoticeRule rule = NoticeRule.named("/all")
                .tell(NoticeKind.FAILED, NoticeKind.SILENT, NoticeKind.DEADLINE_MISSED)
                .digest(Duration.ofMinutes(150))
                .to("duty");
        Telling telling = Telling.NOTHING
                .with(Channel.named("/duty", new Way.Code("duty")))
                .with(rule);
        harbour.brume().receive("duty", told::add);
        harbour.brume().tell("harbour", telling);
        definesTides();
        AtomicInteger counts = new AtomicInteger();
        harbour.brume()
                .define(Job.named("harbour-dues").cron("0 * * * *", "UTC").successWithin(Duration.ofHours(8)), run -> {
                    if (counts.incrementAndGet() % 24 < 12) {
                        throw new IllegalStateException("the ledger is locked");
                    }
                });
        harbour.advance(Duration.ofDays(2));
        takes.set(Duration.ofMinutes(40));
        harbour.advance(Duration.ofDays(1));

        List<Notice> rehearsed = NoticeRehearsal.of(harbour.brume().history(), telling, BEGIN, harbour.now());
        assertThat(kinds())
                .contains(
                        NoticeKind.FAILED,
                        NoticeKind.SILENT,
                        NoticeKind.DEADLINE_MISSED,
                        NoticeKind.AGAIN,
                        NoticeKind.RECOVERED);
        assertThat(rehearsed.stream()
                        .map(notice -> notice.cause() + " " + notice.kind().word()))
                .containsExactlyInAnyOrderElementsOf(told.stream()
                        .map(notice -> notice.cause() + " " + notice.kind().word())
                        .toList());
    }

    @Test
    void whatIsPausedHasNoDeadline() {
        tells(NoticeRule.named("/deadlines").tell(NoticeKind.DEADLINE_AT_RISK, NoticeKind.DEADLINE_MISSED));
        definesTides();
        harbour.advance(Duration.ofDays(2));
        harbour.brume()
                .orders("mara", "the printer is away")
                .pause(PauseOrder.of(Pause.Scope.of(JobName.parse("tide-tables"))));
        harbour.advance(Duration.ofDays(2));

        assertThat(told).isEmpty();
        assertThat(kept("tide-print").orElseThrow().due()).isEqualTo(2);
    }

    private Forecast forecast(String job) {
        JobView view = harbour.brume().history().job(JobName.parse(job)).orElseThrow();
        return new Deadlines()
                .of(harbour.brume().history(), view, harbour.now())
                .orElseThrow();
    }

    @Test
    void whatIsLateOrTakesLongIsToldWhileItIs() {
        tells(NoticeRule.named("/slow")
                .late(Duration.ofMinutes(5))
                .tookLonger(Duration.ofMinutes(30))
                .tookLongerThanUsual(95));
        for (int i = 0; i < 5; i++) {
            harbour.brume().define(Job.named("berth-" + i).cron("0 * * * *", "UTC"), this::works);
        }
        harbour.advance(Duration.ofHours(5).plusMinutes(30));
        assertThat(told).extracting(Notice::kind).containsOnly(NoticeKind.LATE, NoticeKind.RECOVERED, NoticeKind.AGAIN);
        told.clear();

        takes.set(Duration.ofMinutes(20));
        harbour.advance(Duration.ofHours(1));

        assertThat(told).extracting(Notice::kind).contains(NoticeKind.TOOK_LONGER);
        assertThat(told)
                .filteredOn(notice -> notice.kind() == NoticeKind.TOOK_LONGER)
                .first()
                .extracting(Notice::title)
                .asString()
                .contains("has been running for 10m", "half of its runs take 10m or less");
    }

    @Test
    void aWatchThatFailsLeavesTurnsToOthers() {
        AtomicInteger failing = new AtomicInteger();
        AtomicInteger seeing = new AtomicInteger();
        NoticeRule rule = NoticeRule.named("/silence").tell(NoticeKind.SILENT).to("duty");
        Telling telling = Telling.NOTHING
                .with(Channel.named("/duty", new Way.Code("duty")))
                .with(rule);
        try (VirtualBrume broken = VirtualBrume.beginning(BEGIN)
                        .watching((history, now, rules) -> {
                            failing.incrementAndGet();
                            throw new IllegalStateException("it cannot see");
                        })
                        .build();
                VirtualBrume well = VirtualBrume.beginning(BEGIN)
                        .watching((history, now, rules) -> {
                            seeing.incrementAndGet();
                            return new Watch.Looked(List.of(), Set.of());
                        })
                        .build()) {
            for (VirtualBrume each : List.of(broken, well)) {
                each.brume().tell("harbour", telling);
                each.brume().define(Job.named("bell").every(Duration.ofSeconds(10)), run -> {});
                each.advance(Duration.ofHours(1));
            }
        }

        assertThat(failing.get()).isPositive().isLessThan(seeing.get() / 3);
    }

    /** The process that told of the failure ended before it could look for a success again. */
    @Test
    void whatASuccessHasEndedUnnoticedIsOverForWhoeverWatchesNext() throws Exception {
        MemoryStore store = new MemoryStore();
        JobName tides = JobName.parse("tides");
        try (Brume first = Brume.on(store).withoutLog().build()) {
            first.define(Job.named("tides"), run -> {});
            first.start();
            Instant before = first.history().now();
            first.orders("ines", "high water").runNow(tides).await(Duration.ofMinutes(1));
            CauseRow.Told told = CauseRow.Told.nothing("/duty", before, 60_000, /* recovery= */ true)
                    .kinds(Set.of(NoticeKind.FAILED))
                    .at(before, /* goesOn= */ true);
            store.transact(tx -> {
                tx.notices().lock();
                tx.notices()
                        .write(List.of(CauseRow.begins(Trouble.FAILING, "tides", Optional.empty(), before)
                                .telling(told)));
                return null;
            });
        }
        BlockingQueue<Notice> arrived = new LinkedBlockingQueue<>();
        try (Brume watcher = Brume.on(store)
                .withoutLog()
                .poll(Duration.ofMillis(100))
                .watching(new Vigil())
                .build()) {
            watcher.receive("duty", arrived::add);
            watcher.tell(
                    "harbour",
                    Telling.NOTHING
                            .with(Channel.named("/duty", new Way.Code("duty")))
                            .with(NoticeRule.named("/troubles")
                                    .tell(NoticeKind.FAILED, NoticeKind.SILENT)
                                    .to("duty")));
            watcher.keepVigil();

            Notice notice = arrived.poll(60, TimeUnit.SECONDS);
            assertThat(notice).isNotNull();
            assertThat(notice.kind()).isEqualTo(NoticeKind.RECOVERED);
            assertThat(watcher.history().causes(/* over= */ false, 10)).isEmpty();
        }
    }

    @Test
    void whoCannotLookLeavesTheTurnToThoseWhoCan() throws Exception {
        MemoryStore store = new MemoryStore();
        CountDownLatch arrived = new CountDownLatch(1);
        try (Brume blind =
                Brume.on(store).withoutLog().poll(Duration.ofMillis(100)).build()) {
            blind.receive("duty", notice -> arrived.countDown());
            blind.tell(
                    "harbour",
                    Telling.NOTHING
                            .with(Channel.named("/duty", new Way.Code("duty")))
                            .with(NoticeRule.named("/silence")
                                    .tell(NoticeKind.SILENT)
                                    .to("duty")));
            blind.orders("mara", "").sample("/duty");
            blind.keepVigil();

            assertThat(arrived.await(60, TimeUnit.SECONDS)).isTrue();
            NoticeHead head = store.transact(tx -> tx.notices().read());
            assertThat(head.tidiedAt()).as("it has come to its turn").isPresent();
            assertThat(head.watchedAt()).isEmpty();
        }
    }
}
