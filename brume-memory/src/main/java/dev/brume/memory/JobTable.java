package dev.brume.memory;

import dev.brume.JobName;
import dev.brume.memory.Tables.StoredJob;
import java.time.Instant;
import java.util.Comparator;
import java.util.HashMap;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Jobs by id, found by name and by when they are due as well. Guarded by the tables. */
final class JobTable extends TreeMap<Long, StoredJob> {
    private static final long serialVersionUID = 1L;

    private final transient TreeSet<Due> due =
            new TreeSet<>(Comparator.comparing(Due::at).thenComparingLong(Due::job));
    private final transient Map<JobName, Long> live = new HashMap<>();

    private record Due(Instant at, long job) {}

    @Override
    public @Nullable StoredJob put(Long id, StoredJob job) {
        StoredJob before = super.put(id, job);
        forget(before);
        job.row().nextAt().ifPresent(at -> due.add(new Due(at, id)));
        if (job.live()) {
            live.put(job.row().name(), id);
        }
        return before;
    }

    @Override
    public @Nullable StoredJob remove(Object id) {
        StoredJob before = super.remove(id);
        forget(before);
        return before;
    }

    private void forget(@Nullable StoredJob before) {
        if (before != null) {
            before.row()
                    .nextAt()
                    .ifPresent(at -> due.remove(new Due(at, before.row().id())));
            if (before.live()) {
                live.remove(before.row().name(), before.row().id());
            }
        }
    }

    @Override
    public void clear() {
        super.clear();
        due.clear();
        live.clear();
    }

    /** {@return the job of a name, if it lives} */
    Optional<StoredJob> live(JobName key) {
        return Optional.ofNullable(live.get(key)).map(this::get);
    }

    /** {@return when the first is due} */
    Optional<Instant> nextDue() {
        return due.isEmpty() ? Optional.empty() : Optional.of(due.first().at);
    }

    /** {@return the jobs due from an instant on, inclusive, earliest first} */
    Stream<StoredJob> dueFrom(Instant from) {
        return due.tailSet(new Due(from, 0), true).stream().map(each -> get(each.job));
    }

    /** {@return the jobs due in a period, both ends included, earliest first} */
    Stream<StoredJob> dueBetween(Instant from, Instant until) {
        return from.isAfter(until)
                ? Stream.empty()
                : due.subSet(new Due(from, 0), true, new Due(until, Long.MAX_VALUE), true).stream()
                        .map(each -> get(each.job));
    }
}
