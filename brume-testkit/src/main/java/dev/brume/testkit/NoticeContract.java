package dev.brume.testkit;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.AttemptEnd;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.history.CauseRow;
import dev.brume.history.NoticeFilter;
import dev.brume.history.NoticeRow;
import dev.brume.history.NoticeState;
import dev.brume.history.RunRow;
import dev.brume.history.SessionRow;
import dev.brume.history.Span;
import dev.brume.history.TellingRow;
import dev.brume.notice.Channel;
import dev.brume.notice.Notice;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.NoticeRule;
import dev.brume.notice.Telling;
import dev.brume.notice.Trouble;
import dev.brume.notice.Way;
import dev.brume.spi.Notable;
import dev.brume.spi.NoticeHead;
import dev.brume.spi.RunEnd;
import dev.brume.spi.Transaction;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.Collection;
import java.util.EnumSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import org.junit.jupiter.api.Test;

/** What a store does with notices: what is noted, causes, and how deliveries are leased. */
abstract class NoticeContract extends RollUpContract {
    private static final Telling TELLING = Telling.NOTHING
            .with(Channel.named(
                    "duty", Way.Webhook.to("https://pager.example/harbour").signedWith("${env:PAGER_SECRET}")))
            .with(NoticeRule.named("trouble")
                    .tell(NoticeKind.FAILED)
                    .failedInARow(3)
                    .to("duty"));

    private void wants(Notable.Kind... kinds) {
        store.transact(tx -> {
            tx.notices().write(tx.notices().lock().changed(Set.of(kinds)));
            return null;
        });
    }

    private <T> T steps(Function<Transaction, T> steps) {
        return store.transact(steps);
    }

    private List<Notable> noted() {
        return store.transact(tx -> tx.notices().notables(100)).values().stream()
                .flatMap(Collection::stream)
                .toList();
    }

    private Instant at() {
        return now().truncatedTo(ChronoUnit.MICROS);
    }

    @Test
    void theHeadAndWhatSourcesSayComeBack() {
        assertThat(store.<NoticeHead>transact(tx -> tx.notices().read())).isEqualTo(NoticeHead.NONE);
        wants(Notable.Kind.FAILED, Notable.Kind.PASSED_OVER);
        Instant at = at();
        store.transact(tx -> {
            tx.notices().write(tx.notices().lock().watched(at).tidied(at.plusSeconds(1)));
            tx.notices().add(new TellingRow("harbour.yaml", 1, Telling.NOTHING, at));
            tx.notices().add(new TellingRow("harbour.yaml", 2, TELLING, at));
            return null;
        });

        NoticeHead head = store.transact(tx -> tx.notices().lock());
        assertThat(head)
                .isEqualTo(new NoticeHead(
                        1,
                        Set.of(Notable.Kind.FAILED, Notable.Kind.PASSED_OVER),
                        Optional.of(at),
                        Optional.of(at.plusSeconds(1))));
        assertThat(store.history().tellings()).containsExactly(new TellingRow("harbour.yaml", 2, TELLING, at));
    }

    @Test
    void whatHappensIsNotedWithItsTransactionAsFarAsItIsWanted() {
        long id = define(Job.named("tide-tables").handler("tides").build(), past(100));
        SessionRow session = liveSession("quay-1");
        RunRow quiet = leased(id, past(30), session);
        end(quiet.leaseKey(), ended(quiet, AttemptEnd.FAILED, Optional.of("before anybody asked")));
        wants(Notable.Kind.FAILED, Notable.Kind.PASSED_OVER, Notable.Kind.SUCCEEDED);
        RunRow failing = leased(id, past(20), session);
        RunRow plain = leased(id, past(10), session);
        Span missed = new Span(id, 1, past(90), past(60), past(80), past(70), 2, Reason.MISSED.name());
        Span paused = new Span(id, 1, past(60), past(50), past(55), past(51), 3, Reason.PAUSED.name());

        end(failing.leaseKey(), ended(failing, AttemptEnd.FAILED, Optional.of("no tide\nat gauge 3")));
        endQuietly(plain);
        store.transact(tx -> {
            tx.addSpans(List.of(missed, paused));
            return null;
        });

        List<Notable> noted = noted();
        assertThat(noted).extracting(Notable::kind).containsExactly(Notable.Kind.FAILED, Notable.Kind.PASSED_OVER);
        assertThat(noted.get(0).error()).contains("no tide");
        assertThat(noted.get(0).run()).contains(failing.id());
        assertThat(noted.get(1).count()).isEqualTo(2);
        store.transact(tx -> {
            tx.notices().forget(tx.notices().notables(100).keySet());
            return null;
        });
        assertThat(noted()).isEmpty();
        assertThat(steps(tx -> tx.notices().jobs(List.of(id))).get(id).name()).isEqualTo(JobName.parse("tide-tables"));
    }

    @Test
    void nothingIsNotedOfAnEndThatIsRefused() {
        long id = define(Job.named("tide-tables").handler("tides").build(), past(100));
        wants(Notable.Kind.SUCCEEDED);
        RunRow run = leased(id, past(20), liveSession("quay-1"));
        RunEnd end = new RunEnd(
                run.leaseKey(),
                id,
                Outcome.SUCCEEDED,
                Optional.empty(),
                ended(run, AttemptEnd.SUCCEEDED, Optional.empty()),
                Optional.empty(),
                Optional.empty(),
                /* settles= */ false,
                run.owed().planned(),
                /* notable= */ true);

        endAll(List.of(end));
        endAll(List.of(end));

        assertThat(noted()).singleElement().extracting(Notable::kind).isEqualTo(Notable.Kind.SUCCEEDED);
    }

    @Test
    void causesAreKeptAndFoundByKeyAndTime() {
        Instant at = at();
        CauseRow.Told told = CauseRow.Told.nothing("duty", at, 60_000, /* recovery= */ true)
                .kinds(EnumSet.of(NoticeKind.FAILED))
                .at(at, /* goesOn= */ true)
                .folded(3, Optional.of(at.plusSeconds(60)));
        CauseRow open = CauseRow.begins(Trouble.FAILING, "tide-tables", Optional.of(7L), at)
                .seen(at, 4, 4, "FAILED no tide", "tide-tables failed")
                .telling(told)
                .silenced(Optional.of(new CauseRow.Silence("mara", "known", at, Optional.of(at.plusSeconds(3600)))));
        CauseRow over = CauseRow.begins(Trouble.LANE, "bulk", Optional.empty(), at.minusSeconds(60))
                .standingFor(List.of("a", "b"))
                .closed(at);
        write(List.of(open, over));
        CauseRow changed = open.silenced(Optional.empty());
        write(List.of(changed));

        assertThat(this.<Map<String, CauseRow>>steps(
                        tx -> tx.notices().causes(List.of(open.key(), over.key(), "none"))))
                .isEqualTo(Map.of(open.key(), changed, over.key(), over));
        assertThat(this.<List<CauseRow>>steps(tx -> tx.notices().openCauses(10)))
                .containsExactly(changed);
        assertThat(this.<List<CauseRow>>steps(tx -> tx.notices().dueCauses(at.plusSeconds(59), 10)))
                .isEmpty();
        assertThat(this.<List<CauseRow>>steps(tx -> tx.notices().dueCauses(at.plusSeconds(60), 10)))
                .containsExactly(changed);
        assertThat(store.history().causes(/* over= */ true, 10)).containsExactly(changed, over);
        assertThat(store.history().noticeFigures().folded()).isEqualTo(3);
        assertThat(store.<Integer>transact(tx -> tx.notices().tidy(at.plusSeconds(1), 10)))
                .isEqualTo(1);
        assertThat(store.history().causes(/* over= */ true, 10)).containsExactly(changed);
    }

    private void write(List<CauseRow> causes) {
        store.transact(tx -> {
            tx.notices().write(causes);
            return null;
        });
    }

    private NoticeRow notice(String id, String cause, String channel, Instant next) {
        Notice notice = new Notice(
                id,
                cause,
                channel,
                NoticeKind.FAILED,
                Optional.of(JobName.parse("tide-tables")),
                at(),
                "naïve 🌫 tide-tables failed",
                Map.of("run", "7"));
        return NoticeRow.waiting(notice, next, next.plusSeconds(3600));
    }

    private List<String> lease(Map<String, Integer> together, String holder, Instant until) {
        return store.transact(tx -> tx.notices().lease(together, holder, until, 100)).stream()
                .map(row -> row.notice().id())
                .toList();
    }

    @Test
    void ofACauseOnlyTheOldestIsLeasedAndByOneAtATime() {
        Instant due = past(10).truncatedTo(ChronoUnit.MICROS);
        store.transact(tx -> {
            tx.notices()
                    .addNotices(List.of(
                            notice("a1", "failing a", "duty", due),
                            notice("a2", "failing a", "duty", due),
                            notice("b1", "failing b", "duty", due),
                            notice("c1", "failing c", "duty", at().plusSeconds(900)),
                            notice("m1", "failing a", "mail", due)));
            tx.notices().addNotices(List.of(notice("a1", "failing a", "duty", due)));
            return null;
        });
        Instant until = at().plusSeconds(90);

        assertThat(lease(Map.of("duty", 1), "one", until)).containsExactly("a1");
        assertThat(lease(Map.of("duty", 10), "two", until)).containsExactly("b1");
        assertThat(lease(Map.of("duty", 10), "three", until)).isEmpty();
        assertThat(settle("a1", "two")).isEmpty();
        assertThat(settle("a1", "one")).containsExactly("a1");
        assertThat(lease(Map.of("duty", 10), "one", past(5))).containsExactly("a2");
        assertThat(lease(Map.of("duty", 10), "two", until)).containsExactly("a2");
        assertThat(settle("a2", "one")).isEmpty();
        assertThat(settle("a2", "two")).containsExactly("a2");

        List<NoticeRow> all = store.history().notices(NoticeFilter.newest(10));
        assertThat(all).extracting(row -> row.notice().id()).containsExactly("m1", "c1", "b1", "a2", "a1");
        assertThat(all.get(4).state()).isEqualTo(NoticeState.DELIVERED);
        assertThat(all.get(4).notice().title()).isEqualTo("naïve 🌫 tide-tables failed");
        assertThat(store.history()
                        .notices(NoticeFilter.newest(10)
                                .in(Set.of(NoticeState.WAITING))
                                .of("failing a")
                                .to("mail")
                                .before(all.get(0).number() + 1)))
                .hasSize(1);
        assertThat(store.history().noticeFigures().waiting()).isEqualTo(3);
        assertThat(this.<Optional<Instant>>steps(tx -> tx.notices().nextNotice()))
                .contains(due);
    }

    private Set<String> settle(String id, String holder) {
        return store.transact(tx -> {
            NoticeRow row = tx.notices().lockNotice(id).orElseThrow();
            return tx.notices().settle(List.of(row.delivered(at(), Optional.empty())), holder);
        });
    }

    @Test
    void aNoticeThatWasGivenUpMayWaitAnewAndGoesWhenItIsOld() {
        Instant due = past(10).truncatedTo(ChronoUnit.MICROS);
        store.transact(tx -> {
            tx.notices().addNotices(List.of(notice("a1", "failing a", "duty", due)));
            return null;
        });
        store.transact(tx -> {
            NoticeRow row = tx.notices().lockNotice("a1").orElseThrow();
            tx.notices().write(row.givenUp(due, "no such mailbox"));
            return null;
        });
        assertThat(store.history().notices(NoticeFilter.newest(1)).get(0).problem())
                .contains("no such mailbox");
        assertThat(lease(Map.of("duty", 10), "one", at().plusSeconds(90))).isEmpty();
        assertThat(store.<Integer>transact(tx -> tx.notices().tidy(due.plusSeconds(1), 10)))
                .isEqualTo(1);
        assertThat(store.history().notices(NoticeFilter.newest(1))).isEmpty();
    }
}
