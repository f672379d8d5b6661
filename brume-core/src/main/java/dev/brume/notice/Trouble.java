package dev.brume.notice;

import java.util.Locale;

/**
 * What is wrong with something, as one cause of notices: what repeats belongs to the same cause until that has recovered.
 *
 * @since 0.1.0
 */
public enum Trouble {
    /** A job's attempts or runs fail. */
    FAILING("fails"),
    /** A job's runs are lost with their instances, or taken over. */
    LOST("loses its instances"),
    /** Nobody planned occurrences of a job in time. */
    MISSED("misses occurrences"),
    /** Occurrences of a job are skipped. */
    SKIPPED("skips occurrences"),
    /** A run begins late. */
    LATE("is late"),
    /** A run takes longer than it should. */
    LONG("takes long"),
    /** A job ends after its deadline, or is about to. */
    DEADLINE("is too late for its deadline"),
    /** A job has not succeeded for too long. */
    SILENT("has not succeeded for too long"),
    /** Nothing is wrong: a run ended well. */
    NONE("ends well"),
    /** An instance stopped renewing its lease. */
    INSTANCE("is lost"),
    /** Runs wait in a lane that no instance serves. */
    LANE("is served by nobody"),
    /** Occurrences are neither on record nor live. */
    TALLY("has occurrences that nothing explains"),
    /** A seal over the record does not hold. */
    SEAL("does not hold"),
    /** The doctor found something. */
    FINDING("needs a look"),
    /** So many causes at once that they are told as one. */
    WIDE("concerns many");

    private final String words;

    Trouble(String words) {
        this.words = words;
    }

    /** {@return what is said of whatever it concerns, such as {@code fails}} */
    public String words() {
        return words;
    }

    /** {@return the key of a cause: what is wrong, and with what} */
    public String of(String subject) {
        return name().toLowerCase(Locale.ROOT) + " " + subject;
    }

    /** {@return whether what it concerns is a job} */
    public boolean concernsJob() {
        return this == NONE || this == TALLY || endsWithSuccess();
    }

    /** {@return whether a success of the job ends it} */
    public boolean endsWithSuccess() {
        return switch (this) {
            case FAILING, LOST, MISSED, SKIPPED, LATE, LONG, DEADLINE, SILENT -> true;
            default -> false;
        };
    }
}
