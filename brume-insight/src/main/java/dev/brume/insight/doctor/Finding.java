package dev.brume.insight.doctor;

/**
 * Something that a checkup found.
 *
 * @param severity how bad it is
 * @param topic what it is about, in a word or two
 * @param about the job, instance or table, or empty
 * @param text what is so
 * @param advice what to do about it; empty if nothing need be done
 * @since 0.1.0
 */
public record Finding(Severity severity, String topic, String about, String text, String advice) {

    /** How bad something is. */
    public enum Severity {
        /** Something that is owed does not happen, or may be lost. */
        PROBLEM,
        /** Something will go wrong, or will surprise. */
        WARNING,
        /** Good to know. */
        NOTE
    }
}
