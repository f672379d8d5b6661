package dev.brume.memory;

import dev.brume.RunState;
import dev.brume.history.RunRow;
import java.time.Instant;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Live runs by id; those that may be claimed also by lane, in both orders of claiming. Guarded by the tables. */
final class RunTable extends TreeMap<Long, RunRow> {
    private static final long serialVersionUID = 1L;
    private static final Comparator<RunRow> OLDEST_FIRST =
            Comparator.comparing(RunRow::readyAt).thenComparing(RunRow::id);
    private static final Comparator<RunRow> BY_PRIORITY =
            Comparator.comparingInt((RunRow run) -> -run.priority()).thenComparing(OLDEST_FIRST);

    private final transient Map<String, TreeSet<RunRow>> oldestFirst = new HashMap<>();
    private final transient Map<String, TreeSet<RunRow>> byPriority = new HashMap<>();
    private final transient Set<Long> hurried = new HashSet<>();
    private final transient Map<Long, TreeSet<Long>> byJob = new HashMap<>();

    @Override
    public @Nullable RunRow put(Long id, RunRow run) {
        RunRow before = super.put(id, run);
        forget(before);
        if (isClaimable(run)) {
            oldestFirst
                    .computeIfAbsent(run.lane(), lane -> new TreeSet<>(OLDEST_FIRST))
                    .add(run);
            byPriority
                    .computeIfAbsent(run.lane(), lane -> new TreeSet<>(BY_PRIORITY))
                    .add(run);
        }
        if (run.startBy().isPresent()) {
            hurried.add(id);
        }
        byJob.computeIfAbsent(run.owed().job(), job -> new TreeSet<>()).add(id);
        return before;
    }

    @Override
    public @Nullable RunRow remove(Object id) {
        RunRow before = super.remove(id);
        forget(before);
        return before;
    }

    private void forget(@Nullable RunRow before) {
        if (before != null && isClaimable(before)) {
            Tables.row(oldestFirst, before.lane()).remove(before);
            Tables.row(byPriority, before.lane()).remove(before);
        }
        if (before != null) {
            hurried.remove(before.id());
            TreeSet<Long> others = Tables.row(byJob, before.owed().job());
            others.remove(before.id());
            if (others.isEmpty()) {
                byJob.remove(before.owed().job());
            }
        }
    }

    private static boolean isClaimable(RunRow run) {
        return run.state() == RunState.PLANNED || run.state() == RunState.BACKING_OFF;
    }

    @Override
    public void clear() {
        super.clear();
        oldestFirst.clear();
        byPriority.clear();
        hurried.clear();
        byJob.clear();
    }

    /** {@return the live runs of a job, by id} */
    Stream<RunRow> ofJob(long job) {
        return byJob.containsKey(job) ? byJob.get(job).stream().map(this::get) : Stream.empty();
    }

    /** {@return the jobs that have live runs} */
    Set<Long> jobs() {
        return byJob.keySet();
    }

    /** {@return what may be claimed of a lane, oldest first, what is not ready yet included} */
    Stream<RunRow> oldestFirst(String lane) {
        return oldestFirst.containsKey(lane) ? oldestFirst.get(lane).stream() : Stream.empty();
    }

    /** {@return what may be claimed of a lane, highest priority first, what is not ready yet included} */
    Stream<RunRow> byPriority(String lane) {
        return byPriority.containsKey(lane) ? byPriority.get(lane).stream() : Stream.empty();
    }

    /** {@return the runs that may begin only up to some time, and may no longer} */
    Stream<RunRow> tooLate(Instant now) {
        return hurried.stream().sorted().map(this::get).filter(run -> MemoryOrders.isTooLate(run, now));
    }
}
