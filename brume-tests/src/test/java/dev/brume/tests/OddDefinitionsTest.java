package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Brume;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.history.ChangeFilter;
import dev.brume.history.History;
import dev.brume.history.JobView;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.schedule.Occurrence;
import dev.brume.testkit.VirtualBrume;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.TimeUnit;
import java.util.stream.IntStream;
import java.util.stream.LongStream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** Whatever definition is accepted is planned, run and dropped, and ten plain jobs beside it stay on time. */
class OddDefinitionsTest {
    private static final int ROUNDS = 200;
    private static final int IN_ONE = 50;
    private static final int PLAIN = 10;
    private static final Duration PACE = Duration.ofSeconds(10);

    private static List<Job> odd(OddDefinitions source, int count) {
        return IntStream.range(0, count)
                .mapToObj(i -> source.next("odd-" + i))
                .flatMap(Optional::stream)
                .toList();
    }

    private static List<Job> plain(Duration pace) {
        return IntStream.range(0, PLAIN)
                .mapToObj(
                        i -> Job.named("plain-" + i).every(pace).handler("work").build())
                .toList();
    }

    private static void nothingWasSetAside(History history) {
        for (String kind : List.of("SET_ASIDE", "GAVE_UP")) {
            assertThat(history.changes(ChangeFilter.newest(10).withKind(kind))).isEmpty();
        }
    }

    @Test
    void tenThousandInVirtualTime() {
        int accepted = 0;
        for (int round = 0; round < ROUNDS; round++) {
            OddDefinitions source = new OddDefinitions(round);
            try (VirtualBrume harbour = VirtualBrume.beginning(Instant.parse("2026-11-28T12:00:00Z"))
                    .workDoneBy(run -> {})
                    .build()) {
                Brume brume = harbour.brume();
                List<Job> odd = odd(source, IN_ONE);
                accepted += odd.size();
                brume.define(plain(PACE), "plain");
                brume.define(odd, "odd");
                Instant begin = harbour.now();
                harbour.advance(Duration.ofSeconds(61));

                for (int i = 0; i < PLAIN; i++) {
                    harbour.ledger("plain-" + i)
                            .planned(LongStream.rangeClosed(0, 6)
                                    .mapToObj(n -> begin.plus(PACE.multipliedBy(n)))
                                    .toArray(Instant[]::new));
                }
                Set<JobName> ran = new HashSet<>();
                for (RunView run : brume.history().runs(RunFilter.newest(100_000))) {
                    ran.add(run.job());
                }
                for (Job job : odd) {
                    Optional<Occurrence> owed = job.next(begin);
                    if (job.enabled()
                            && owed.filter(each -> each.instant().isBefore(begin.plusSeconds(55)))
                                    .isPresent()) {
                        assertThat(ran).as("round %s, %s", round, job).contains(job.name());
                    }
                    brume.drop(job.name());
                }
                harbour.settle();
                nothingWasSetAside(brume.history());
                assertThat(brume.history().jobs())
                        .extracting(JobView::job)
                        .extracting(job -> job.name().name())
                        .allMatch(name -> name.startsWith("plain-"))
                        .hasSize(PLAIN);
            }
        }
        System.out.println(ROUNDS * IN_ONE + " definitions, " + accepted + " accepted");
        assertThat(accepted).isBetween(ROUNDS * IN_ONE / 20, ROUNDS * IN_ONE / 2);
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void whatIsAcceptedRunsOnEveryDatabase(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh()) {
            Set<String> worked = ConcurrentHashMap.newKeySet();
            Brume brume = Brume.on(fresh.store())
                    .instance("quay-1")
                    .poll(Duration.ofMillis(100))
                    .build();
            brume.handler("work", run -> worked.add(run.job().name()));
            List<Job> odd = odd(new OddDefinitions(4711), 500);
            brume.define(plain(Duration.ofSeconds(1)), "plain");
            brume.define(odd, "odd");
            brume.start();
            List<Long> ordered = new ArrayList<>();
            // Those of a payload type wait for a handler that reads it; those that must start within a second may be
            // too late.
            for (Job job : odd.stream()
                    .filter(job ->
                            job.payloadType().isEmpty() && job.startWithin().isEmpty())
                    .toList()) {
                ordered.add(brume.orders("anna", "a try").runNow(job.name()).id());
            }

            // One that outran a limit of a millisecond may well wait for a hundred years to be tried again.
            long until = System.nanoTime() + TimeUnit.SECONDS.toNanos(60);
            for (long id : ordered) {
                RunView run = brume.history().run(id).orElseThrow();
                while (run.outcome().isEmpty() && run.attempts().isEmpty()) {
                    assertThat(System.nanoTime() - until).as("run %s", run).isNegative();
                    run = brume.history().run(id).orElseThrow();
                }
                assertThat(run.outcome()).isNotEqualTo(Optional.of(Outcome.SKIPPED));
            }
            for (int i = 0; i < PLAIN; i++) {
                while (!worked.contains("plain-" + i)) {
                    assertThat(System.nanoTime() - until).as("plain-%s", i).isNegative();
                }
            }
            odd.forEach(job -> brume.drop(job.name()));
            nothingWasSetAside(brume.history());
            assertThat(brume.history().jobs()).hasSize(PLAIN);
            brume.stop(Duration.ofSeconds(30));
        }
    }
}
