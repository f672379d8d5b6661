package dev.brume.history;

import dev.brume.JobName;
import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.stream.Stream;

/**
 * An order that jobs owe no runs until it is lifted.
 *
 * @param scope which jobs
 * @param since when it was ordered
 * @param who ordered it
 * @param because why, empty if nobody said
 * @since 0.1.0
 */
public record Pause(Scope scope, Instant since, String who, String because) {

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
