package dev.brume.tests;

import dev.brume.IfBusy;
import dev.brume.IfFailed;
import dev.brume.IfMissed;
import dev.brume.Job;
import dev.brume.Keep;
import dev.brume.schedule.EverySchedule;
import dev.brume.schedule.OnceSchedule;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.SplittableRandom;
import java.util.function.BiConsumer;

/** Makes definitions of values at, just inside and just beyond every bound. */
final class OddDefinitions {
    private static final Duration LONGEST = Duration.ofDays(36525);
    private static final List<Duration> DURATIONS = List.of(
            Duration.ofSeconds(Long.MIN_VALUE),
            Duration.ofNanos(-1),
            Duration.ZERO,
            Duration.ofNanos(1),
            Duration.ofMillis(1),
            Duration.ofSeconds(1).minusNanos(1),
            Duration.ofSeconds(1),
            Duration.ofSeconds(90),
            Duration.ofDays(1),
            Duration.ofDays(1).plusNanos(1),
            LONGEST.minusNanos(1),
            LONGEST,
            LONGEST.plusNanos(1),
            Duration.ofSeconds(Long.MAX_VALUE / 1000),
            ChronoUnit.FOREVER.getDuration());
    private static final List<Integer> NUMBERS =
            List.of(Integer.MIN_VALUE, -1, 0, 1, 2, 5, 9, 10, 100, 1000, 1001, 10_000, 10_001, Integer.MAX_VALUE);
    private static final List<Instant> INSTANTS = List.of(
            Instant.MIN,
            Instant.parse("1899-12-31T23:59:59.999999999Z"),
            Instant.parse("1900-01-01T00:00:00Z"),
            Instant.EPOCH,
            Instant.parse("2026-11-28T12:00:30Z"),
            Instant.parse("8999-12-31T23:59:59.999999999Z"),
            Instant.parse("9000-01-01T00:00:00Z"),
            Instant.MAX);
    private static final List<String> PIECES = List.of(
            "a",
            "Ebbe",
            " ",
            "\0",
            "\uD83D",
            "\uDE00",
            "\uD83D\uDE00",
            "ü",
            "'",
            "\"",
            "\\",
            "\n",
            "${run}",
            "${",
            "%s",
            "-",
            ".");
    private static final List<Integer> LENGTHS =
            List.of(0, 1, 2, 59, 60, 61, 100, 101, 199, 200, 201, 499, 500, 501, 4000, 4001, 65_535, 65_536, 65_537);

    private final SplittableRandom random;
    private final List<BiConsumer<OddDefinitions, Job.Builder>> changes = List.of(
            (odd, job) -> job.description(odd.text()),
            (odd, job) -> job.timeLimit(odd.duration()),
            (odd, job) -> job.startWithin(odd.duration()),
            (odd, job) -> job.afterEnd(odd.duration()),
            (odd, job) -> job.spread(odd.duration()),
            (odd, job) -> job.every(odd.duration()),
            (odd, job) -> job.schedule(EverySchedule.of(odd.duration()).withAnchor(odd.instant())),
            (odd, job) -> job.once(odd.instant()),
            (odd, job) -> job.schedule(OnceSchedule.in(odd.duration(), ZoneId.of("Europe/Lisbon"))),
            (odd, job) -> job.cron(odd.cron(), "Atlantic/Azores"),
            (odd, job) -> job.ifBusy(IfBusy.waiting(odd.number())),
            (odd, job) -> job.ifBusy(IfBusy.alongside(odd.number())),
            (odd, job) -> job.ifFailed(IfFailed.attempts(odd.number(), odd.duration())),
            (odd, job) -> job.ifFailed(
                    IfFailed.attempts(3, odd.duration()).factor(odd.factor()).cap(odd.duration())),
            (odd, job) -> job.ifFailed(IfFailed.attempts(3, odd.duration()).jitter(odd.factor())),
            (odd, job) -> job.ifFailed(IfFailed.waits(List.of(odd.duration(), odd.duration()))),
            (odd, job) -> job.ifMissed(IfMissed.runEach(odd.number()).tolerance(odd.duration())),
            (odd, job) ->
                    job.ifMissed(IfMissed.runLatest().tolerance(odd.duration()).oldest(odd.duration())),
            (odd, job) -> job.ifMissed(IfMissed.skip().tolerance(odd.duration())),
            (odd, job) -> job.keep(Keep.upTo(odd.duration())),
            (odd, job) -> job.keep(Keep.upTo(odd.duration()).andNewest(odd.number())),
            (odd, job) -> job.priority(odd.number()),
            (odd, job) -> job.tag(odd.text()),
            (odd, job) -> job.payload(odd.text()),
            (odd, job) -> job.payloadType(odd.text()),
            (odd, job) -> job.exclusive(odd.text()),
            (odd, job) -> job.mask(odd.text()),
            (odd, job) -> job.onEachInstance());

    OddDefinitions(long seed) {
        random = new SplittableRandom(seed);
    }

    /**
     * {@return a definition, if it is accepted; empty if it is refused as a user's mistake is}
     *
     * @throws RuntimeException if it is refused in any other way
     */
    Optional<Job> next(String name) {
        try {
            Job.Builder job = Job.named(name).handler("work");
            for (int change = random.nextInt(1, 5); change > 0; change--) {
                of(changes).accept(this, job);
            }
            return Optional.of(job.build());
        } catch (IllegalArgumentException refused) {
            if (refused.getMessage() == null || refused.getMessage().isBlank()) {
                throw new AssertionError("refused without a word", refused);
            }
            return Optional.empty();
        }
    }

    private <T> T of(List<T> values) {
        return values.get(random.nextInt(values.size()));
    }

    private Duration duration() {
        return of(DURATIONS);
    }

    private Instant instant() {
        return of(INSTANTS);
    }

    private int number() {
        return of(NUMBERS);
    }

    private double factor() {
        return of(List.of(Double.NaN, Double.NEGATIVE_INFINITY, -0.1, 0.0, 0.5, 1.0, 1.1, 100.0, Double.MAX_VALUE));
    }

    private String cron() {
        return of(List.of("* * * * *", "* * * * * *", "0 4 29 2 *", "0 0 30 2 *", "*/7 * * * *", "", "60 * * * *"));
    }

    private String text() {
        int length = of(LENGTHS);
        StringBuilder text = new StringBuilder();
        List<String> pieces = new ArrayList<>(List.of("a", of(PIECES), of(PIECES)));
        while (text.length() < length) {
            text.append(random.nextInt(8) == 0 ? of(pieces) : "a");
        }
        return text.substring(0, length);
    }
}
