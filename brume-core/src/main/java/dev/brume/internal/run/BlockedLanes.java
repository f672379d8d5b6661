package dev.brume.internal.run;

import dev.brume.internal.duty.Instance;
import dev.brume.schedule.Durations;
import dev.brume.spi.LeasedRun;
import dev.brume.spi.Store;
import java.time.Duration;
import java.time.Instant;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/**
 * Tells of lanes whose workers are all taken by runs that do not end, while others are ready: a handler that blocks looks like an instance that does
 * nothing. Confined to the thread of one duty.
 */
public final class BlockedLanes {
    private static final Duration LONG = Duration.ofMinutes(1);
    private static final int MOST_NAMED = 3;

    private final Instance instance;
    private final Map<String, Long> lookedAt = new HashMap<>();
    private final Map<String, LeasedRun> told = new HashMap<>();

    public BlockedLanes(Instance instance) {
        this.instance = instance;
    }

    /** Looks at lanes that are full, each once a minute. */
    public void check() {
        instance.settings().lanes().keySet().stream()
                .filter(lane -> instance.workers().free(lane) == 0 && isTime(lane))
                .forEach(this::check);
    }

    private boolean isTime(String lane) {
        Long before = lookedAt.get(lane);
        return before == null || instance.time().nanos() - before >= LONG.toNanos();
    }

    private void check(String lane) {
        List<LeasedRun> held = instance.held().stream()
                .filter(run -> run.job().lane().equals(lane))
                .sorted(Comparator.comparingLong(LeasedRun::leasedNanos))
                .toList();
        if (held.isEmpty() || lasts(held.get(held.size() - 1)).compareTo(LONG) < 0) {
            return;
        }
        LeasedRun newest = held.get(held.size() - 1);
        lookedAt.put(lane, instance.time().nanos());
        Optional<Instant> ready = instance.look(new Store.Look(
                        Set.of(lane), instance.ability(), instance.share(), Optional.empty(), /* wide= */ false))
                .nextReady()
                .filter(at -> at.plus(LONG).isBefore(instance.now()));
        if (ready.isPresent() && !newest.equals(told.put(lane, newest))) {
            tell(lane, held, ready.get());
        }
    }

    private void tell(String lane, List<LeasedRun> held, Instant since) {
        instance.tellProblem("lane " + lane + " is blocked: its "
                + (held.size() == 1 ? "worker is" : held.size() + " workers are") + " taken by "
                + held.stream().limit(MOST_NAMED).map(this::words).collect(Collectors.joining(", "))
                + (held.size() > MOST_NAMED ? " and others" : "") + ", and a run has been ready since " + since
                + " (give such jobs a timeLimit or a lane of their own, or this one more workers)");
    }

    private Duration lasts(LeasedRun run) {
        return Duration.ofNanos(instance.time().nanos() - run.leasedNanos());
    }

    private String words(LeasedRun run) {
        return "run " + run.row().id() + " of " + run.job().name() + " for " + Durations.about(lasts(run));
    }
}
