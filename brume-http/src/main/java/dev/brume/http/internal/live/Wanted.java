package dev.brume.http.internal.live;

import dev.brume.JobName;
import dev.brume.Role;
import dev.brume.history.FeedEvent;
import dev.brume.http.Caller;
import java.util.Optional;

/**
 * Which events a client is told.
 *
 * @param caller who it is: what they may not look at they are not told
 * @param namespace of the jobs that alone matter, if one was named
 * @param job that alone matters, if one was named
 * @param tag that the jobs carry that alone matter, if one was named
 * @param kind of events that alone matter, if one was named
 */
record Wanted(
        Caller caller,
        Optional<String> namespace,
        Optional<JobName> job,
        Optional<String> tag,
        Optional<FeedEvent.Kind> kind) {

    /**
     * {@return whether an event is told}
     *
     * @param about the job that it is about, if it is about one
     */
    boolean wants(FeedEvent event, Optional<JobName> about, JobFacts facts) {
        if (kind.isPresent() && kind.get() != event.kind()) {
            return false;
        }
        if (about.isEmpty()) {
            return namespace.isEmpty() && job.isEmpty() && tag.isEmpty() && caller.mayEverywhere(Role.VIEWER);
        }
        JobName name = about.get();
        // What is cheap to know comes first: most events concern few of many.
        return (job.isEmpty() || job.get().equals(name))
                && (namespace.isEmpty() || namespace.get().equals(name.namespace()))
                && caller.may(Role.VIEWER, name.namespace())
                && tag.filter(only -> !facts.tags(name).contains(only)).isEmpty();
    }
}
