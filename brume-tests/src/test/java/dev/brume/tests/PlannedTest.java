package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.tuple;

import dev.brume.Brume;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.OneOff;
import dev.brume.OneOffAnswer;
import dev.brume.OneOffAnswer.Kind;
import dev.brume.OneOffs;
import dev.brume.Outcome;
import dev.brume.Run;
import dev.brume.history.OneOffFilter;
import dev.brume.history.OneOffView;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
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

    private static long run(OneOffAnswer answer, Kind kind) {
        assertThat(answer.kind()).isEqualTo(kind);
        return answer.run().orElseThrow().id();
    }

    private static OneOffView view(String key, Instant at, Optional<String> payload, long run) {
        return new OneOffView(BRIDGE, key, at, payload, "quay-1", run, /* made= */ false, Optional.empty());
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
            OneOffs oneOffs = brume.oneOffs();
            OneOff north = OneOff.of(BRIDGE, "north");
            long south = run(oneOffs.add(OneOff.of(BRIDGE, "south").at(later).payload("south")), Kind.ADDED);
            long first = run(oneOffs.add(north.at(later.plusSeconds(1))), Kind.ADDED);
            assertThat(run(oneOffs.add(north.at(later)), Kind.ALREADY_WAITS)).isEqualTo(first);

            assertThat(run(oneOffs.move(BRIDGE, "north", muchLater), Kind.MOVED))
                    .isEqualTo(first);
            assertThat(run(oneOffs.move(BRIDGE, "north", muchLater), Kind.UNCHANGED))
                    .isEqualTo(first);
            assertThat(oneOffs.move(BRIDGE, "west", muchLater))
                    .isEqualTo(new OneOffAnswer(Kind.NOT_THERE, Optional.empty()));
            assertThat(brume.history().oneOffs(OneOffFilter.first(10).of(BRIDGE)))
                    .containsExactly(
                            view("south", later, Optional.of("south"), south),
                            view("north", muchLater, Optional.empty(), first));
            assertThat(brume.history().oneOffs(OneOffFilter.first(10).of(BRIDGE).withPrefix("nor")))
                    .hasSize(1);
            assertThat(run(oneOffs.drop(BRIDGE, "north"), Kind.DROPPED)).isEqualTo(first);
            assertThat(oneOffs.drop(BRIDGE, "north").kind()).isEqualTo(Kind.NOT_THERE);
            long second = run(oneOffs.add(north.at(muchLater)), Kind.ADDED);
            assertThat(second).isGreaterThan(first);
            run(oneOffs.addOrMove(OneOff.of(BRIDGE, "east").at(muchLater)), Kind.ADDED);
            assertThat(run(oneOffs.addOrMove(north.at(later).payload("low tide")), Kind.MOVED))
                    .isEqualTo(second);
            assertThat(run(oneOffs.addOrMove(north.at(later).payload("low tide")), Kind.UNCHANGED))
                    .isEqualTo(second);
            assertThat(brume.history().oneOff(BRIDGE, "north"))
                    .contains(view("north", later, Optional.of("low tide"), second));
            run(oneOffs.addOrMove(north.at(muchLater)), Kind.MOVED);
            assertThat(brume.history().oneOff(BRIDGE, "north"))
                    .as("the payload is the new one's, too: the job's own")
                    .contains(view("north", muchLater, Optional.empty(), second));
            assertThat(brume.history().oneOffs(OneOffFilter.first(1))).hasSize(1);
            assertThat(oneOffs.waiting(BRIDGE, "", 10))
                    .extracting(OneOffView::key)
                    .containsExactly("east", "north", "south");

            brume.start();
            Instant due = brume.history().now().minusSeconds(1).truncatedTo(ChronoUnit.MICROS);
            run(oneOffs.move(BRIDGE, "south", due), Kind.MOVED);
            Run run = runs.poll(30, TimeUnit.SECONDS);
            assertThat(run).as("a run that starts").isNotNull();

            assertThat(run.id()).as("the number that it was ordered as").isEqualTo(south);
            assertThat(brume.history().oneOff(BRIDGE, "south").orElseThrow().made())
                    .isTrue();
            assertThat(fresh.number(
                            "select count(*) from " + fresh.table("brume_one_off") + " where payload is not null"))
                    .as("payloads that its run has now")
                    .isZero();
            assertThat(run(oneOffs.move(BRIDGE, "south", muchLater), Kind.ALREADY_RAN))
                    .isEqualTo(south);
            assertThat(run(oneOffs.drop(BRIDGE, "south"), Kind.ALREADY_RAN)).isEqualTo(south);
            assertThat(run(oneOffs.addOrMove(OneOff.of(BRIDGE, "south").at(due)), Kind.ALREADY_RAN))
                    .as("an answer that was lost")
                    .isEqualTo(south);
            long next = run(oneOffs.addOrMove(OneOff.of(BRIDGE, "south").at(due.plusMillis(1))), Kind.ADDED);
            assertThat(runs.poll(30, TimeUnit.SECONDS)).extracting(Run::id).isEqualTo(next);
            assertThat(brume.history().runs(RunFilter.newest(10).of(BRIDGE)))
                    .as("each run of the key, by its key")
                    .extracting(RunView::id, view -> view.owed().oneOffKey().orElse(""))
                    .containsExactly(tuple(next, "south"), tuple(south, "south"));
            assertThat(oneOffs.dropAll(BRIDGE, "n")).isEqualTo(1);
            assertThat(oneOffs.dropAll(BRIDGE, "")).isEqualTo(1);
            String changes = "select count(*) from " + fresh.table("brume_change") + " where kind = ";
            assertThat(fresh.number(changes + "'ONE_OFF_ADDED'")).isEqualTo(5);
            assertThat(fresh.number(changes + "'ONE_OFF_MOVED'")).isEqualTo(4);
            assertThat(fresh.number(changes + "'ONE_OFF_DROPPED'")).isEqualTo(3);
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
                    assertThat(brume.oneOffs()
                                    .within(connection)
                                    .move(BRIDGE, "moved-" + isolation, other)
                                    .changed())
                            .isTrue();
                    assertThat(brume.oneOffs()
                                    .within(connection)
                                    .drop(BRIDGE, "dropped-" + isolation)
                                    .changed())
                            .isTrue();
                    assertThat(brume.oneOffs()
                                    .within(connection)
                                    .addOrMove(instead)
                                    .changed())
                            .isTrue();
                    connection.rollback();
                    for (String key : List.of("moved-", "instead-")) {
                        assertThat(brume.history()
                                        .oneOff(BRIDGE, key + isolation)
                                        .map(OneOffView::dueAt))
                                .contains(later);
                    }
                    assertThat(brume.oneOffs()
                                    .within(connection)
                                    .move(BRIDGE, "moved-" + isolation, other)
                                    .changed())
                            .isTrue();
                    assertThat(brume.oneOffs()
                                    .within(connection)
                                    .drop(BRIDGE, "dropped-" + isolation)
                                    .changed())
                            .isTrue();
                    assertThat(brume.oneOffs()
                                    .within(connection)
                                    .addOrMove(instead)
                                    .changed())
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
            long second = brume.orders("anna", "").runNow(BRIDGE, "north").id();
            assertThat(runs.poll(30, TimeUnit.SECONDS)).isNotNull();
            while (brume.history().run(second).orElseThrow().outcome().isEmpty()) {
                assertThat(brume.history().run(second)).isPresent();
            }

            assertThat(brume.history().run(first.id()).orElseThrow().result()).contains("south ONE_OFF first -1");
            assertThat(brume.history().run(second).orElseThrow().result()).contains("north BY_HAND SUCCEEDED -1");
        }
    }
}
