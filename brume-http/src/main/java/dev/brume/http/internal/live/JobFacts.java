package dev.brume.http.internal.live;

import dev.brume.Brume;
import dev.brume.JobName;
import dev.brume.history.FeedEvent;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.LongSupplier;

/** Knows which job a run is of, and which tags a job carries; of each so many, those that were asked for last. Safe for use by many threads. */
final class JobFacts {
    private static final int MOST = 10_000;
    private static final long FRESH_NANOS = 5_000_000_000L;

    private final Brume brume;
    private final LongSupplier nanos;
    private final Map<Long, JobName> jobs = bounded();
    private final Map<JobName, Tags> tags = bounded();

    private record Tags(Set<String> words, long at) {}

    JobFacts(Brume brume, LongSupplier nanos) {
        this.brume = brume;
        this.nanos = nanos;
    }

    private static <K, V> Map<K, V> bounded() {
        return Collections.synchronizedMap(new LinkedHashMap<>(16, 0.75f, /* accessOrder= */ true) {
            private static final long serialVersionUID = 1L;

            @Override
            protected boolean removeEldestEntry(Map.Entry<K, V> eldest) {
                return size() > MOST;
            }
        });
    }

    /** Which job an event is about: some say only which run. */
    Optional<JobName> job(FeedEvent event) {
        if (event.job().isPresent()) {
            event.run().ifPresent(run -> jobs.put(run, event.job().get()));
            return event.job();
        }
        return event.run().flatMap(this::jobOf);
    }

    /** Nobody waits for the store but who asks it. */
    private Optional<JobName> jobOf(long run) {
        JobName known = jobs.get(run);
        if (known != null) {
            return Optional.of(known);
        }
        Optional<JobName> found = brume.history().run(run).map(view -> view.job());
        found.ifPresent(job -> jobs.put(run, job));
        return found;
    }

    Set<String> tags(JobName job) {
        Tags known = tags.get(job);
        if (known == null || nanos.getAsLong() - known.at > FRESH_NANOS) {
            known = new Tags(
                    brume.history()
                            .job(job)
                            .map(view -> Set.copyOf(view.job().tags()))
                            .orElse(Set.of()),
                    nanos.getAsLong());
            tags.put(job, known);
        }
        return known.words;
    }
}
