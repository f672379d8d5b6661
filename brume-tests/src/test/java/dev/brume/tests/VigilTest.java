package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Brume;
import dev.brume.Deadline;
import dev.brume.FollowUp;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.PauseOrder;
import dev.brume.Run;
import dev.brume.history.JobView;
import dev.brume.history.Pause;
import dev.brume.insight.deadline.Deadlines;
import dev.brume.insight.deadline.Forecast;
import dev.brume.insight.watch.Vigil;
import dev.brume.memory.MemoryStore;
import dev.brume.notice.Channel;
import dev.brume.notice.Notice;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.NoticeRule;
import dev.brume.notice.Telling;
import dev.brume.notice.Way;
import dev.brume.spi.NoticeHead;
import dev.brume.testkit.VirtualBrume;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
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
        harbour.brume().define(Job.named("tide-print").endBy(Deadline.at(LocalTime.of(6, 0))), this::works);
        harbour.brume()
                .define(
                        Job.named("tide-tables").cron("0 5 * * *", "UTC").followUp(FollowUp.On.SUCCESS, "tide-print"),
                        this::works);
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
