package dev.brume;

import java.util.Collection;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * Thrown when what an order or a question names is not there: a job that nobody defined, a run that is not on record.
 *
 * @since 0.1.0
 */
public final class NotThereException extends IllegalArgumentException {
    private static final long serialVersionUID = 1L;

    private final transient @Nullable JobName job;

    private NotThereException(String message, @Nullable JobName job) {
        super(message);
        this.job = job;
    }

    /**
     * {@return the exception for a job that is not defined}
     *
     * @param job the name that was given
     * @param hint what else is to be said, such as a name that is near; may be empty
     */
    public static NotThereException ofJob(JobName job, String hint) {
        return new NotThereException("there is no job '" + job + "'" + hint, job);
    }

    /**
     * {@return the exception for a run that is not on record}
     *
     * @param run the id that was given
     * @param hint what else is to be said; may be empty
     */
    public static NotThereException ofRun(long run, String hint) {
        return new NotThereException("there is no run " + run + hint, null);
    }

    /** {@return the exception for a version of a job that never was, or was removed} */
    public static NotThereException ofVersion(JobName job, int version) {
        return new NotThereException("there is no version " + version + " of '" + job + "'", null);
    }

    /** {@return the exception for a source of definitions that nothing comes from} */
    public static NotThereException ofSource(String source) {
        return new NotThereException(
                "no definition in force comes from '" + source + "' (brume jobs --format json tells the sources)",
                null);
    }

    /**
     * {@return the exception for a one-off that is not on record}
     *
     * @param job whose
     * @param key that was given
     */
    public static NotThereException ofOneOff(JobName job, String key) {
        return new NotThereException("there is no one-off '" + key + "' of '" + job + "' on record", null);
    }

    /**
     * {@return the exception for a token that was never made}
     *
     * @param name that was given
     */
    public static NotThereException ofToken(String name) {
        return new NotThereException("there is no token '" + name + "'", null);
    }

    /** {@return the exception for a cause of notices that does not go on} */
    public static NotThereException ofCause(String key) {
        return new NotThereException(
                "there is no cause '" + key + "' that goes on (brume notices causes lists those that do)", null);
    }

    /** {@return the exception for a notice that is not on record} */
    public static NotThereException ofNotice(String id) {
        return new NotThereException("there is no notice '" + id + "' on record (brume notices lists them)", null);
    }

    /**
     * {@return the exception for a channel that is not defined}
     *
     * @param name that was given
     * @param known the names of those that are
     */
    public static NotThereException ofChannel(String name, Collection<String> known) {
        return new NotThereException(
                "there is no channel '" + name + "' ("
                        + (known.isEmpty() ? "none is defined" : "there are " + String.join(", ", known)) + ")",
                null);
    }

    /** {@return the job that is not there; empty if it is something else} */
    public Optional<JobName> job() {
        return Optional.ofNullable(job);
    }
}
