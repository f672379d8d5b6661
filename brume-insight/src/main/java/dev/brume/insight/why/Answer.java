package dev.brume.insight.why;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;

/**
 * Why something is as it is.
 *
 * @param code the same for programs
 * @param sentence the answer, in one sentence
 * @param at the instant it is about: when the occurrence, or the run, was planned; when the next one is
 * @param reason why it did not run, where that is on record; one of {@link dev.brume.Reason}
 * @param runs that it speaks of: the one asked about first, then what stood in its way
 * @param facts what it rests on, in order
 * @since 0.1.0
 */
public record Answer(
        Code code, String sentence, Optional<Instant> at, Optional<String> reason, List<Long> runs, List<Fact> facts) {

    /** The kinds of answer. */
    public enum Code {
        /** A run goes on. */
        RUNNING,
        /** A run is ready, or planned for later, and nobody has taken it yet. */
        PLANNED,
        /** A run waits for its place. */
        WAITING,
        /** A run failed, and is tried again. */
        BACKING_OFF,
        /** It could not be planned, and somebody has to mend it. */
        SET_ASIDE,
        /** Its definition owes nothing. */
        DISABLED,
        /** Somebody paused it. */
        PAUSED,
        /** It is due, and nobody has planned it yet. */
        DUE,
        /** Nothing is due before the next occurrence. */
        NOTHING_DUE,
        /** Its schedules, if it has any, name no time any more. */
        NONE_TO_COME,
        /** There was no such job then. */
        NOT_DEFINED,
        /** No schedule named that time. */
        NOT_OWED,
        /** See {@link dev.brume.insight.tally.Verdict}, as all that follow. */
        ON_TIME,
        LATE,
        SKIPPED,
        MISSED,
        BEYOND_RETENTION,
        NOT_YET,
        UNEXPLAINED
    }

    static Answer of(Code code, Optional<Instant> at, String sentence) {
        return new Answer(code, sentence, at, Optional.empty(), List.of(), List.of());
    }

    Answer about(List<Long> those) {
        return new Answer(code, sentence, at, reason, those, facts);
    }

    Answer because(Optional<String> why) {
        return new Answer(code, sentence, at, why, runs, facts);
    }

    Answer on(List<Fact> its) {
        return new Answer(code, sentence, at, reason, runs, its);
    }

    /** {@return the same with one more fact} */
    Answer with(Fact fact) {
        return on(Stream.concat(facts.stream(), Stream.of(fact)).toList());
    }

    /**
     * A fact.
     *
     * @param name a word or two
     * @param text the fact, in words
     * @param at since when it holds, or when it came about, where that is one instant
     * @param run that it is about, if it is about one
     */
    public record Fact(String name, String text, Optional<Instant> at, Optional<Long> run) {
        Fact(String name, String text) {
            this(name, text, Optional.empty(), Optional.empty());
        }

        Fact(String name, String text, Instant at) {
            this(name, text, Optional.of(at), Optional.empty());
        }
    }
}
