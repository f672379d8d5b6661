package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.Brume;
import dev.brume.Grant;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.NewToken;
import dev.brume.OneOff;
import dev.brume.OneOffAnswer;
import dev.brume.OrderKeyTakenException;
import dev.brume.Orders;
import dev.brume.Role;
import dev.brume.RunHandle;
import dev.brume.history.ChangeFilter;
import dev.brume.history.ChangeView;
import dev.brume.history.Pause;
import dev.brume.history.RunFilter;
import dev.brume.schedule.CronSchedule;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** Orders under a key, from elsewhere, and orders about who is let in. */
class OrderKeysTest {
    private static final JobName DUES = JobName.parse("harbour/dues");

    private static Brume office(Db.Fresh fresh) {
        Brume brume = Brume.on(fresh.store()).instance("office").build();
        brume.define(Job.named(DUES)
                .schedule(CronSchedule.parse("15 4 * * *", ZoneId.of("Atlantic/Azores")))
                .handler("dues")
                .build());
        return brume;
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void anOrderUnderAKeyIsCarriedOutOnce(Db db) {
        try (Db.Fresh fresh = db.fresh();
                Brume office = office(fresh)) {
            Orders ines = office.orders("ines", "month end");
            RunHandle run = ines.once("k1").runNow(DUES, "{}");

            assertThat(ines.once("k1").runNow(DUES, "{}").id()).isEqualTo(run.id());
            assertThat(ines.once("k2").runNow(DUES, "{}").id()).isNotEqualTo(run.id());
            assertThat(office.orders("rui", "").once("k1").runNow(DUES, "{}").id())
                    .as("of another person")
                    .isNotEqualTo(run.id());
            assertThatThrownBy(() -> ines.once("k1").runNow(DUES, "other"))
                    .isInstanceOf(OrderKeyTakenException.class)
                    .hasMessageContaining("'k1' stands for another order already");
            assertThat(office.history().runs(RunFilter.newest(10).of(DUES))).hasSize(3);
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void everyKindOfOrderIsToldAgainWhatCameOfTheFirst(Db db) {
        try (Db.Fresh fresh = db.fresh();
                Brume office = office(fresh)) {
            Orders once = office.orders("ines", "").once("same");
            Instant now = office.history().now();

            assertThat(once.skipNext(DUES)).isEqualTo(once.skipNext(DUES)).isPresent();
            RunHandle run = once.runNow(DUES);
            assertThat(once.cancel(run.id())).isEqualTo(once.cancel(run.id()));
            RunHandle rerun = once.rerun(run.id());
            assertThat(once.rerun(run.id()).id()).isEqualTo(rerun.id());
            assertThat(once.pause(Pause.Scope.of(DUES))).isEqualTo(once.pause(Pause.Scope.of(DUES)));
            assertThat(once.resume(Pause.Scope.of(DUES))).isEqualTo(once.resume(Pause.Scope.of(DUES)));
            List<RunHandle> made = once.backfill(DUES, now.minus(Duration.ofDays(3)), now);
            assertThat(made).hasSize(3);
            assertThat(once.backfill(DUES, now.minus(Duration.ofDays(3)), now))
                    .extracting(RunHandle::id)
                    .isEqualTo(made.stream().map(RunHandle::id).toList());
            OneOff bridge = OneOff.of(DUES, "bridge").at(now.plusSeconds(3600));
            OneOffAnswer first = once.oneOffs().add(bridge);
            OneOffAnswer second = once.oneOffs().add(bridge);
            assertThat(second.kind()).isEqualTo(OneOffAnswer.Kind.ALREADY_ORDERED);
            assertThat(second.run().orElseThrow().id())
                    .isEqualTo(first.run().orElseThrow().id());
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void theChangeLogSaysFromWhere(Db db) {
        try (Db.Fresh fresh = db.fresh();
                Brume office = office(fresh)) {
            office.orders("ines", "month end").from("203.0.113.9").runNow(DUES);
            office.orders("ines", "").from("203.0.113.9").drop(DUES);

            assertThat(office.history().changes(ChangeFilter.newest(10).by("ines")))
                    .extracting(view -> view.change().host())
                    .containsOnly("203.0.113.9")
                    .hasSize(2);
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void aTokenIsToldOnceAndRevokedForAll(Db db) {
        try (Db.Fresh fresh = db.fresh();
                Brume office = office(fresh)) {
            Orders admin = office.orders("ines", "for the quay's robot");
            Grant grant = Grant.within(List.of("harbour"), Role.OPERATOR);
            NewToken token = admin.addToken("quay-bot", grant, Optional.of(Duration.ofDays(90)));

            assertThat(token.toString()).doesNotContain(token.secret());
            assertThat(office.access().token(token.secret())).get().satisfies(row -> {
                assertThat(row.name()).isEqualTo("quay-bot");
                assertThat(row.grant()).isEqualTo(grant);
            });
            assertThat(office.access().token(token.secret() + "x")).isEmpty();
            assertThatThrownBy(() -> admin.addToken("quay-bot", grant, Optional.empty()))
                    .hasMessage("there is a token 'quay-bot' already; revoke it first, or give this one another name");
            String cookie = office.access().signIn("quay-bot", grant, Optional.of("quay-bot"), Duration.ofHours(8));
            assertThat(office.access().signedIn(cookie)).isPresent();

            assertThat(admin.revokeToken("quay-bot")).isTrue();
            assertThat(office.access().token(token.secret())).isEmpty();
            assertThat(office.access().signedIn(cookie)).isEmpty();
            assertThat(admin.revokeToken("quay-bot")).isFalse();
            assertThat(office.history().changes(ChangeFilter.newest(3)))
                    .extracting(ChangeView::change)
                    .extracting(change -> change.kind() + " " + change.text())
                    .first()
                    .isEqualTo("TOKEN_REVOKED quay-bot, operator of harbour");
        }
    }
}
