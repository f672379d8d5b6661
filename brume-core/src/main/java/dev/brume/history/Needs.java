package dev.brume.history;

import dev.brume.Job;
import java.util.List;
import java.util.Optional;
import java.util.UUID;

/**
 * The handler, labels and session that an instance must have to be given a run.
 *
 * @param handler that it knows, or the kind of work that it takes ({@link dev.brume.Work#needs()}); empty if none is needed
 * @param labels that it carries, sorted
 * @param session that it is, where the run is owed to one instance only
 * @since 0.1.0
 */
public record Needs(Optional<String> handler, List<String> labels, Optional<UUID> session) {
    /** Any instance will do. */
    public static final Needs NOTHING = new Needs(Optional.empty(), List.of(), Optional.empty());

    /** {@return what a job's runs need, by whichever instance they are carried out} */
    public static Needs of(Job job) {
        return new Needs(Optional.of(job.needs()), job.requireLabels(), Optional.empty());
    }

    /** {@return the same needs of one session} */
    public Needs of(UUID only) {
        return new Needs(handler, labels, Optional.of(only));
    }
}
