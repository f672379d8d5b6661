package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.Brume;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.OneOff;
import dev.brume.Outcome;
import dev.brume.Run;
import dev.brume.history.OneOffView;
import java.sql.Connection;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** One-offs are moved and dropped by their keys, also in transactions of the application's, until a run is made of them. */
class PlannedTest {
    private static final JobName BRIDGE = JobName.parse("bridge-closure");
    private static final List<Integer> ISOLATIONS = List.of(
            Connection.TRANSACTION_READ_COMMITTED,
            Connection.TRANSACTION_REPEATABLE_READ,
            Connection.TRANSACTION_SERIALIZABLE);

    private final BlockingQueue<Run> runs = new LinkedBlockingQueue<>();

    private Brume harbour(Db.Fresh fresh) {
        Brume brume = Brume.on(fresh.store())
                .instance("quay-1")
                .poll(Duration.ofMillis(100))
                .build();
        brume.handler("close", run -> {
            run.result(run.payload().orElse("") + " " + run.origin() + " "
                    + run.previous()
                            .map(Run.Previous::outcome)
                            .map(Outcome::name)
                            .orElse("first") + " "
                    + run.timeLeft().orElseThrow().compareTo(Duration.ofMinutes(1)));
            runs.add(run);
        });
        brume.define(Job.named(BRIDGE)
                .handler("close")
                .timeLimit(Duration.ofMinutes(1))
                .build());
        return brume;
    }

    private static Instant in(Brume brume, Duration wait) {
        return brume.history().now().plus(wait).truncatedTo(ChronoUnit.MICROS);
    }

    @ParameterizedTest
    @EnumSource
    void aOneOffIsMovedAndDroppedUntilARunIsMadeOfIt(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh();
                Brume brume = harbour(fresh)) {
            Instant later = in(brume, Duration.ofHours(2));
            Instant muchLater = in(brume, Duration.ofHours(3));
            assertThat(brume.oneOffs().add(OneOff.of(BRIDGE, "south").at(later).payload("south")))
                    .isTrue();
            assertThat(brume.oneOffs().add(OneOff.of(BRIDGE, "north").at(later.plusSeconds(1))))
                    .isTrue();
            assertThat(brume.oneOffs().add(OneOff.of(BRIDGE, "north").at(later)))
                    .isFalse();

            assertThat(brume.oneOffs().move(BRIDGE, "north", muchLater)).isTrue();
            assertThat(brume.oneOffs().move(BRIDGE, "west", muchLater)).isFalse();
            assertThat(brume.history().oneOffs(BRIDGE, 10))
                    .containsExactly(
                            new OneOffView(BRIDGE, "south", later, Optional.of("south"), "quay-1", Optional.empty()),
                            new OneOffView(BRIDGE, "north", muchLater, Optional.empty(), "quay-1", Optional.empty()));
            assertThat(brume.oneOffs().drop(BRIDGE, "north")).isTrue();
            assertThat(brume.oneOffs().drop(BRIDGE, "north")).isFalse();
            assertThat(brume.oneOffs().add(OneOff.of(BRIDGE, "north").at(muchLater)))
                    .as("its key is free again")
                    .isTrue();
            assertThat(brume.oneOffs().addOrMove(OneOff.of(BRIDGE, "east").at(muchLater)))
                    .as("a key that is free")
                    .isTrue();
            assertThat(brume.oneOffs()
                            .addOrMove(OneOff.of(BRIDGE, "north").at(later).payload("low tide")))
                    .as("a key of one that waits")
                    .isTrue();
            assertThat(brume.history().oneOff(BRIDGE, "north"))
                    .contains(new OneOffView(
                            BRIDGE, "north", later, Optional.of("low tide"), "quay-1", Optional.empty()));
            assertThat(brume.oneOffs().addOrMove(OneOff.of(BRIDGE, "north").at(muchLater)))
                    .isTrue();
            assertThat(brume.history().oneOff(BRIDGE, "north"))
                    .as("the payload is the new one's, too: the job's own")
                    .contains(new OneOffView(BRIDGE, "north", muchLater, Optional.empty(), "quay-1", Optional.empty()));
            assertThat(brume.history().oneOffs(1)).hasSize(1);

            brume.start();
            assertThat(brume.oneOffs().move(BRIDGE, "south", brume.history().now()))
                    .isTrue();
            Run run = runs.poll(30, TimeUnit.SECONDS);
            assertThat(run).as("a run that starts").isNotNull();

            assertThat(brume.history().oneOff(BRIDGE, "south").orElseThrow().run())
                    .contains(run.id());
            assertThat(fresh.number(
                            "select count(*) from " + fresh.table("brume_one_off") + " where payload is not null"))
                    .as("payloads that its run has now")
                    .isZero();
            assertThat(brume.oneOffs().move(BRIDGE, "south", muchLater)).isFalse();
            assertThat(brume.oneOffs().drop(BRIDGE, "south")).isFalse();
            assertThat(brume.oneOffs().add(OneOff.of(BRIDGE, "south").at(muchLater)))
                    .isFalse();
            assertThat(brume.oneOffs().addOrMove(OneOff.of(BRIDGE, "south").at(muchLater)))
                    .as("a key of which a run was made")
                    .isFalse();
            String changes = "select count(*) from " + fresh.table("brume_change") + " where kind = ";
            assertThat(fresh.number(changes + "'ONE_OFF_ADDED'")).isEqualTo(4);
            assertThat(fresh.number(changes + "'ONE_OFF_MOVED'")).isEqualTo(4);
            assertThat(fresh.number(changes + "'ONE_OFF_DROPPED'")).isEqualTo(1);
            assertThatThrownBy(() -> brume.oneOffs().move(JobName.parse("bridge"), "south", later))
                    .hasMessage("there is no job 'bridge'");
        }
    }

    @ParameterizedTest
    @EnumSource
    void inACallersTransactionItIsMovedAndDroppedOnlyIfThatCommits(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh();
                Brume brume = harbour(fresh)) {
            Instant later = in(brume, Duration.ofHours(2));
            Instant other = in(brume, Duration.ofHours(5));
            for (int isolation : ISOLATIONS) {
                brume.oneOffs().add(OneOff.of(BRIDGE, "moved-" + isolation).at(later));
                brume.oneOffs().add(OneOff.of(BRIDGE, "dropped-" + isolation).at(later));
                brume.oneOffs().add(OneOff.of(BRIDGE, "instead-" + isolation).at(later));
                OneOff instead = OneOff.of(BRIDGE, "instead-" + isolation).at(other);
                try (Connection connection = fresh.connection()) {
                    connection.setTransactionIsolation(isolation);
                    connection.setAutoCommit(false);
                    assertThat(brume.oneOffs().within(connection).move(BRIDGE, "moved-" + isolation, other))
                            .isTrue();
                    assertThat(brume.oneOffs().within(connection).drop(BRIDGE, "dropped-" + isolation))
                            .isTrue();
                    assertThat(brume.oneOffs().within(connection).addOrMove(instead))
                            .isTrue();
                    connection.rollback();
                    for (String key : List.of("moved-", "instead-")) {
                        assertThat(brume.history()
                                        .oneOff(BRIDGE, key + isolation)
                                        .map(OneOffView::dueAt))
                                .contains(later);
                    }
                    assertThat(brume.oneOffs().within(connection).move(BRIDGE, "moved-" + isolation, other))
                            .isTrue();
                    assertThat(brume.oneOffs().within(connection).drop(BRIDGE, "dropped-" + isolation))
                            .isTrue();
                    assertThat(brume.oneOffs().within(connection).addOrMove(instead))
                            .isTrue();
                    connection.commit();
                    connection.setAutoCommit(true);
                }
                for (String key : List.of("moved-", "instead-")) {
                    assertThat(brume.history().oneOff(BRIDGE, key + isolation).map(OneOffView::dueAt))
                            .contains(other);
                }
                assertThat(brume.history().oneOff(BRIDGE, "dropped-" + isolation))
                        .isEmpty();
            }
        }
    }

    @ParameterizedTest
    @EnumSource
    void aHandlerKnowsWhatItsRunIsOwedToWhatWasBeforeItAndItsTime(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh();
                Brume brume = harbour(fresh)) {
            brume.start();
            brume.oneOffs()
                    .add(OneOff.of(BRIDGE, "south").at(brume.history().now()).payload("south"));
            Run first = runs.poll(30, TimeUnit.SECONDS);
            assertThat(first).isNotNull();
            while (brume.history().job(BRIDGE).orElseThrow().lastEnd().isEmpty()) {
                assertThat(brume.history().run(first.id())).isPresent();
            }
            long second = brume.orders("anna", "").runNow(BRIDGE, "north");
            assertThat(runs.poll(30, TimeUnit.SECONDS)).isNotNull();
            while (brume.history().run(second).orElseThrow().outcome().isEmpty()) {
                assertThat(brume.history().run(second)).isPresent();
            }

            assertThat(brume.history().run(first.id()).orElseThrow().result()).contains("south ONE_OFF first -1");
            assertThat(brume.history().run(second).orElseThrow().result()).contains("north BY_HAND SUCCEEDED -1");
        }
    }
}
