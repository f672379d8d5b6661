package dev.brume.testkit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.IfFailed;
import dev.brume.Job;
import dev.brume.JobScope;
import dev.brume.history.NoticeFilter;
import dev.brume.history.NoticeRow;
import dev.brume.history.NoticeState;
import dev.brume.notice.Channel;
import dev.brume.notice.Notice;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.NoticeRule;
import dev.brume.notice.Quiet;
import dev.brume.notice.RefusedException;
import dev.brume.notice.Telling;
import dev.brume.notice.Way;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicInteger;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** What is told of jobs in virtual time, to a channel in code. */
class NoticesTest {
    private static final Instant BEGIN = Instant.parse("2026-12-01T00:00:00Z");
    private static final Channel DUTY = Channel.named("duty", new Way.Code("duty"));

    private final VirtualBrume harbour = VirtualBrume.beginning(BEGIN).build();
    private final List<Notice> told = new ArrayList<>();
    private final AtomicBoolean broken = new AtomicBoolean(true);

    @AfterEach
    void close() {
        harbour.close();
    }

    private void tells(NoticeRule rule) {
        harbour.brume().receive("duty", told::add);
        harbour.brume().tell("harbour", Telling.NOTHING.with(DUTY).with(rule.to("duty")));
    }

    private static NoticeRule rule() {
        return NoticeRule.named("trouble");
    }

    private void everyMinute(String name, IfFailed policy) {
        harbour.brume().define(Job.named(name).cron("* * * * *", "UTC").ifFailed(policy), run -> {
            if (broken.get()) {
                throw new IllegalStateException("no tide at gauge " + run.id());
            }
        });
    }

    private List<String> titles() {
        return told.stream().map(Notice::title).toList();
    }

    private List<NoticeKind> kinds() {
        return told.stream().map(Notice::kind).toList();
    }

    @Test
    void aFailureIsToldAtOnceItsRepeatsTogetherAndTheEndOnce() {
        tells(rule().tell(NoticeKind.FAILED).digest(Duration.ofMinutes(30)));
        everyMinute("tide-print", IfFailed.giveUp());

        harbour.advance(Duration.ofMinutes(1));
        assertThat(titles())
                .singleElement()
                .asString()
                .startsWith("tide-print failed: ")
                .contains("no tide at gauge");

        harbour.advance(Duration.ofMinutes(60));
        assertThat(kinds()).containsExactly(NoticeKind.FAILED, NoticeKind.AGAIN, NoticeKind.AGAIN);
        assertThat(told.get(1).facts()).containsEntry("more", "30");

        broken.set(false);
        harbour.advance(Duration.ofMinutes(90));
        assertThat(kinds().subList(3, kinds().size())).containsExactly(NoticeKind.RECOVERED);
        assertThat(told.get(3).title()).startsWith("tide-print is well again after 1h");
        assertThat(told).extracting(Notice::cause).containsOnly("failing tide-print");
        assertThat(told).extracting(Notice::id).doesNotHaveDuplicates();
    }

    @Test
    void whatComesAndGoesAllTheTimeIsNotToldEachTime() {
        AtomicInteger run = new AtomicInteger();
        tells(rule().tell(NoticeKind.FAILED));
        harbour.brume().define(Job.named("flaky").cron("* * * * *", "UTC"), each -> {
            if (run.incrementAndGet() % 2 == 1) {
                throw new IllegalStateException("no tide");
            }
        });

        harbour.advance(Duration.ofHours(3));

        assertThat(told).hasSizeLessThanOrEqualTo(8);
        assertThat(kinds()).startsWith(NoticeKind.FAILED, NoticeKind.RECOVERED, NoticeKind.AGAIN);
    }

    @Test
    void eachAttemptAndTheLastOneAreToldIfBothAreAskedFor() {
        tells(rule().tell(NoticeKind.ATTEMPT_FAILED, NoticeKind.FAILED).failedInARow(2));
        harbour.brume()
                .define(
                        Job.named("tide-print")
                                .cron("0 * * * *", "UTC")
                                .ifFailed(IfFailed.attempts(2, Duration.ofSeconds(10))),
                        each -> {
                            throw new IllegalStateException("no tide");
                        });

        harbour.advance(Duration.ofMinutes(121));

        assertThat(titles())
                .containsSubsequence(
                        "tide-print: attempt 1 failed, and is tried again: no tide",
                        "tide-print failed after 2 attempts: no tide",
                        "tide-print failed 2 times in a row: no tide");
    }

    @Test
    void manyAtOnceAreToldAsOneAndSoIsTheirEnd() {
        tells(rule().tell(NoticeKind.FAILED).digest(Duration.ofMinutes(10)));
        for (int i = 0; i < 12; i++) {
            everyMinute("quay-" + i, IfFailed.giveUp());
        }

        harbour.advance(Duration.ofMinutes(1));
        assertThat(kinds()).containsExactly(NoticeKind.WIDESPREAD);
        assertThat(titles()).containsExactly("Much goes wrong at once: 12 jobs fail");
        assertThat(told.get(0).facts().get("members")).contains("quay-0 failed", "quay-11 failed");

        broken.set(false);
        harbour.advance(Duration.ofMinutes(30));
        assertThat(kinds()).filteredOn(NoticeKind.RECOVERED::equals).hasSize(1);
    }

    @Test
    void whatFailsLongAfterMuchDidIsToldByItselfAlthoughSomeOfThatGoesOn() {
        AtomicBoolean lateOne = new AtomicBoolean();
        tells(rule().tell(NoticeKind.FAILED).digest(Duration.ofHours(6)));
        for (int i = 0; i < 8; i++) {
            everyMinute("quay-" + i, IfFailed.giveUp());
        }
        harbour.brume().define(Job.named("lamps").cron("* * * * *", "UTC"), run -> {
            if (lateOne.get()) {
                throw new IllegalStateException("dark");
            }
        });
        harbour.advance(Duration.ofMinutes(30));
        assertThat(kinds()).containsExactly(NoticeKind.WIDESPREAD);

        lateOne.set(true);
        harbour.advance(Duration.ofMinutes(1));
        assertThat(titles()).last().asString().isEqualTo("lamps failed: dark");

        broken.set(false);
        lateOne.set(false);
        harbour.advance(Duration.ofHours(7));
        assertThat(told)
                .filteredOn(notice -> notice.kind() == NoticeKind.RECOVERED)
                .extracting(notice -> notice.cause().split(" ", 3)[0])
                .containsExactlyInAnyOrder("failing", "wide");
    }

    @Test
    void aRuleConcernsTheJobsThatItNames() {
        tells(rule().tell(NoticeKind.FAILED).of(JobScope.tag("critical").andJob("lamps")));
        everyMinute("lamps", IfFailed.giveUp());
        everyMinute("berths", IfFailed.giveUp());
        harbour.brume().define(Job.named("gates").cron("* * * * *", "UTC").tag("critical"), run -> {
            throw new IllegalStateException("stuck");
        });

        harbour.advance(Duration.ofMinutes(1));

        assertThat(told).extracting(Notice::cause).containsExactlyInAnyOrder("failing lamps", "failing gates");
    }

    @Test
    void missedOccurrencesAndSuccessesAreTold() {
        broken.set(false);
        tells(rule().tell(NoticeKind.MISSED, NoticeKind.ENDED_WELL));
        harbour.brume().define(Job.named("night").cron("0 * * * *", "UTC"), run -> {});
        harbour.advanceTo(BEGIN.plus(Duration.ofMinutes(30)));
        harbour.outage(Duration.ofHours(3));

        harbour.advance(Duration.ofMinutes(181));

        assertThat(titles())
                .contains(
                        "night missed 2 occurrences from 2026-12-01T01:00:00Z on",
                        "night is well again after 1h30m (misses occurrences, 2 times)");
        assertThat(kinds()).contains(NoticeKind.ENDED_WELL);
    }

    @Test
    void whatIsToldInQuietHoursWaitsUntilTheyAreOver() {
        harbour.brume().receive("duty", told::add);
        Channel quiet = DUTY.quiet(Quiet.between(LocalTime.of(22, 0), LocalTime.of(6, 0), ZoneOffset.UTC));
        harbour.brume()
                .tell(
                        "harbour",
                        Telling.NOTHING
                                .with(quiet)
                                .with(rule().tell(NoticeKind.FAILED).to("duty")));
        everyMinute("tide-print", IfFailed.giveUp());

        harbour.advanceTo(BEGIN.plus(Duration.ofHours(5)));
        assertThat(told).isEmpty();

        harbour.advanceTo(BEGIN.plus(Duration.ofHours(6)).plusSeconds(90));
        assertThat(kinds()).containsExactly(NoticeKind.FAILED, NoticeKind.AGAIN);
    }

    @Test
    void whatIsNotTakenIsSentAgainUnderTheSameIdAndThenKept() {
        List<String> tried = new ArrayList<>();
        harbour.brume().receive("duty", notice -> {
            tried.add(notice.id());
            throw new java.io.IOException("the line is dead");
        });
        harbour.brume()
                .tell(
                        "harbour",
                        Telling.NOTHING
                                .with(DUTY.giveUpAfter(Duration.ofMinutes(10)))
                                .with(rule().tell(NoticeKind.FAILED).to("duty")));
        harbour.brume().define(Job.named("once"), run -> {
            throw new IllegalStateException("no tide");
        });
        harbour.run("once");

        harbour.advance(Duration.ofMinutes(20));

        assertThat(tried).hasSizeBetween(4, 6).containsOnly(tried.get(0));
        NoticeRow row = only();
        assertThat(row.state()).isEqualTo(NoticeState.UNDELIVERED);
        assertThat(row.problem()).contains("the line is dead");
        assertThat(harbour.brume().history().noticeFigures().undelivered()).isEqualTo(1);

        harbour.brume().receive("duty", told::add);
        harbour.brume()
                .orders("mara", "the line was mended")
                .sendAgain(row.notice().id());
        harbour.advance(Duration.ofSeconds(5));
        assertThat(told).extracting(Notice::id).containsExactly(row.notice().id());
        assertThat(only().state()).isEqualTo(NoticeState.DELIVERED);
    }

    private NoticeRow only() {
        return harbour.brume().history().notices(NoticeFilter.newest(10)).get(0);
    }

    @Test
    void whatIsRefusedIsNotSentAgain() {
        AtomicInteger tries = new AtomicInteger();
        harbour.brume().receive("duty", notice -> {
            tries.incrementAndGet();
            throw new RefusedException("no such mailbox");
        });
        harbour.brume()
                .tell(
                        "harbour",
                        Telling.NOTHING
                                .with(DUTY)
                                .with(rule().tell(NoticeKind.FAILED).to("duty")));
        everyMinute("tide-print", IfFailed.giveUp());

        harbour.advance(Duration.ofMinutes(5));

        assertThat(tries).hasValue(1);
        assertThat(only().state()).isEqualTo(NoticeState.UNDELIVERED);
    }

    @Test
    void whoHasAcknowledgedACauseHearsNoMoreUntilItChangesOrIsOver() {
        AtomicInteger mode = new AtomicInteger();
        tells(rule().tell(NoticeKind.FAILED).digest(Duration.ofMinutes(5)));
        harbour.brume().define(Job.named("tide-print").cron("* * * * *", "UTC"), run -> {
            if (mode.get() < 2) {
                throw new IllegalStateException(mode.get() == 0 ? "no tide" : "disk full");
            }
        });
        harbour.advance(Duration.ofMinutes(1));
        harbour.brume()
                .orders("mara", "the gauge is being mended")
                .acknowledge("failing tide-print", java.util.Optional.empty());

        harbour.advance(Duration.ofMinutes(30));
        assertThat(told).hasSize(1);

        mode.set(1);
        harbour.advance(Duration.ofMinutes(1));
        assertThat(titles()).last().asString().isEqualTo("tide-print failed: disk full");

        mode.set(2);
        harbour.advance(Duration.ofMinutes(2));
        assertThat(kinds()).last().isEqualTo(NoticeKind.RECOVERED);
        assertThatThrownBy(() -> harbour.brume()
                        .orders("mara", "")
                        .acknowledge("failing tide-print", java.util.Optional.empty()))
                .hasMessageContaining("no cause 'failing tide-print'");
    }

    @Test
    void aRuleTellsChannelsThatThereAre() {
        assertThatThrownBy(() -> harbour.brume()
                        .tell(
                                "harbour",
                                Telling.NOTHING.with(
                                        rule().tell(NoticeKind.FAILED).to("pager"))))
                .hasMessageContaining("tells the channel 'pager', which is not defined");
    }
}
