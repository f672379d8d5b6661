package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.tuple;

import dev.brume.Brume;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.examples.TenantNotices;
import dev.brume.examples.TenantNotices.Answer;
import dev.brume.examples.TenantNotices.Notice;
import java.time.Duration;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CopyOnWriteArrayList;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** The sample of a service whose users define timed jobs for themselves. */
class TenantNoticesTest {
    private static final String AZORES = "Atlantic/Azores";

    private final List<String> posted = new CopyOnWriteArrayList<>();

    @ParameterizedTest
    @EnumSource
    void tenantsHaveTheirOwnNoticesWithinWhatTheyAreAllowed(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh();
                TenantNotices service =
                        new TenantNotices(fresh.store(), (tenant, text) -> posted.add(tenant + ": " + text));
                Brume desk = Brume.on(fresh.store()).instance("desk").build()) {
            service.admit("ferry", 2);
            service.admit("pilots", 5);
            String sailing = id(service.add("ferry", "Sailing at six", "0 17 * * FRI", AZORES));
            String fog = id(service.add("ferry", "Fog signal test", "0 9 1 * *", AZORES));
            id(service.add("pilots", "Roster", "0 6 * * MON", AZORES));
            assertThat(refusals(service.add("ferry", "One more", "0 9 * * *", AZORES)))
                    .singleElement()
                    .asString()
                    .contains("2 is the most it may have");
            assertThat(refusals(service.add("pilots", "Often", "* * * * *", AZORES)))
                    .singleElement()
                    .asString()
                    .contains("5m");

            assertThat(service.page("ferry", Optional.empty()))
                    .extracting(Notice::id, Notice::text)
                    .containsExactly(tuple(sailing, "Sailing at six"), tuple(fog, "Fog signal test"));
            assertThat(service.page("ferry", Optional.of(sailing)))
                    .extracting(Notice::id)
                    .containsExactly(fog);

            service.start();
            assertThat(desk.orders("ferry", "")
                            .runNow(new JobName("ferry", sailing))
                            .await(Duration.ofSeconds(60))
                            .outcome())
                    .isEqualTo(Outcome.SUCCEEDED);
            assertThat(posted).containsExactly("ferry: Sailing at six");

            service.suspend("ferry", "unpaid");
            assertThat(service.page("ferry", Optional.empty()))
                    .allSatisfy(notice -> assertThat(notice.next()).isEmpty());
            assertThat(service.page("pilots", Optional.empty()))
                    .allSatisfy(notice -> assertThat(notice.next()).isPresent());
            service.resume("ferry");
            assertThat(service.drop("pilots", sailing)).as("of another tenant").isFalse();
            assertThat(service.drop("ferry", sailing)).isTrue();
            assertThat(service.remove("ferry")).isEqualTo(1);
            assertThat(service.page("ferry", Optional.empty())).isEmpty();
        }
    }

    @ParameterizedTest
    @EnumSource(names = "H2")
    void whatIsWrongIsForTheUserToRead(Db db) {
        try (Db.Fresh fresh = db.fresh();
                TenantNotices service = new TenantNotices(fresh.store(), (tenant, text) -> posted.add(text))) {
            assertThat(refusals(service.add("ferry", "x", "60 9 * * *", AZORES)))
                    .containsExactly("minute: '60' is outside 0-59 (column 1)");
            assertThat(refusals(service.add("ferry", "x", "", AZORES)))
                    .containsExactly(
                            "cron: is empty (expected 5 fields: minute hour day-of-month month day-of-week, such"
                                    + " as 15 4 * * *)");
            assertThat(refusals(service.add("ferry", "x", "0 9 * * *", "Atlantic/Azore")))
                    .containsExactly("zone: 'Atlantic/Azore' is not a known IANA zone (expected a region such as"
                            + " Europe/Lisbon, or UTC); did you mean Atlantic/Azores?");
            assertThat(refusals(service.add("ferry", "x", "0 9 * * *", "")))
                    .containsExactly("zone: is empty (expected a region such as Europe/Lisbon, or UTC)");
        }
    }

    private static String id(Answer answer) {
        assertThat(answer.refusals()).isEmpty();
        return answer.id().orElseThrow();
    }

    private static List<String> refusals(Answer answer) {
        assertThat(answer.id()).isEmpty();
        return answer.refusals();
    }
}
