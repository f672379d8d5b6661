package dev.brume.history;

import dev.brume.CalendarName;
import dev.brume.Job;
import dev.brume.JobName;
import java.time.Instant;
import java.time.ZoneId;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;

/**
 * An order that jobs owe no runs for a time.
 *
 * @param scope which jobs
 * @param since from when on, inclusive; ahead if it is planned
 * @param until when it ends, exclusive; empty if it holds until it is lifted
 * @param owed what becomes of the occurrences in it
 * @param who ordered it
 * @param because why, empty if nobody said
 * @param days whose days it was made of, if it was made of a calendar's
 * @since 0.1.0
 */
public record Pause(
        Scope scope,
        Instant since,
        Optional<Instant> until,
        Owed owed,
        String who,
        String because,
        Optional<Days> days) {

    /** What becomes of the occurrences in a pause. */
    public enum Owed {
        /** When it ends, each job's policy for missed occurrences decides. */
        AS_DEFINED,
        /** None is made up for. */
        LEFT_OUT
    }

    /**
     * The days of a calendar, midnight to midnight. They follow the calendar when it is defined anew.
     *
     * @param calendar which
     * @param zone where
     */
    public record Days(CalendarName calendar, ZoneId zone) {
        @Override
        public String toString() {
            return calendar + " (" + zone + ")";
        }
    }

    /** {@return those of some pauses that cover a job} */
    public static List<Pause> covering(Collection<Pause> pauses, Job job) {
        return pauses.stream()
                .filter(pause -> pause.scope().covers(job.name(), job.tags()))
                .toList();
    }

    /** {@return whether it holds at an instant} */
    public boolean isInForce(Instant at) {
        return !since.isAfter(at) && !isOver(at);
    }

    /** {@return whether it has ended by an instant} */
    public boolean isOver(Instant at) {
        return until.filter(end -> !end.isAfter(at)).isPresent();
    }

    /** {@return whether it covers the same jobs, at least as long, as another does} */
    public boolean includes(Pause other) {
        return scope.equals(other.scope)
                && !since.isAfter(other.since)
                && (until.isEmpty()
                        || other.until.filter(end -> !end.isAfter(until.get())).isPresent())
                && (owed == Owed.LEFT_OUT || owed == other.owed);
    }

    /** The kinds of scope. */
    public enum Kind {
        /** One job, by its key. */
        JOB,
        /** All jobs that carry a tag, now or later. */
        TAG,
        /** All jobs of a namespace, now or later. */
        NAMESPACE,
        /** All jobs there are, now or later. */
        EVERYTHING
    }

    /**
     * Which jobs are meant.
     *
     * @param kind what it goes by
     * @param name the job's key in full, the tag, the namespace, or nothing
     */
    public record Scope(Kind kind, String name) {
        /** All jobs. */
        public static final Scope EVERYTHING = new Scope(Kind.EVERYTHING, "");

        /** One job. */
        public static Scope of(JobName key) {
            return new Scope(Kind.JOB, key.namespace() + "/" + key.name());
        }

        /** All jobs that carry a tag. */
        public static Scope tag(String tag) {
            return new Scope(Kind.TAG, tag);
        }

        /**
         * All jobs of a namespace.
         *
         * @throws IllegalArgumentException if it is no name
         */
        public static Scope namespace(String namespace) {
            if (!JobName.isName(namespace)) {
                throw new IllegalArgumentException(
                        "namespace '" + namespace + "' is not a name (expected " + JobName.RULE + ")");
            }
            return new Scope(Kind.NAMESPACE, namespace);
        }

        /** {@return whether a job is meant} */
        public boolean covers(JobName key, Collection<String> tags) {
            return switch (kind) {
                case JOB -> equals(of(key));
                case TAG -> tags.contains(name);
                case NAMESPACE -> key.namespace().equals(name);
                case EVERYTHING -> true;
            };
        }

        /** {@return all scopes that may have covered a job, in words, as the change log has them} */
        public static List<String> wordsCovering(JobName key, Collection<String> tags) {
            Stream<Scope> own = Stream.of(EVERYTHING, of(key), namespace(key.namespace()));
            return Stream.concat(own, tags.stream().distinct().map(Scope::tag))
                    .map(Scope::toString)
                    .toList();
        }

        @Override
        public String toString() {
            return switch (kind) {
                case JOB -> "job " + JobName.parse(name);
                case TAG -> "tag " + name;
                case NAMESPACE -> "namespace " + name;
                case EVERYTHING -> "everything";
            };
        }
    }
}
