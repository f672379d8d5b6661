package dev.brume.history;

import dev.brume.JobName;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.Trouble;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;

/**
 * A cause of notices: what is wrong with something, since when, and what was told of it.
 *
 * @param key what is wrong, and with what, such as {@code failing harbour/tide-print}
 * @param trouble what is wrong
 * @param subject with what: a job's name, or an instance's, a lane's
 * @param job its id, if it is a job
 * @param openedAt when it began
 * @param lastAt when it was last seen
 * @param count how often it was seen since it began
 * @param inARow how many runs in a row failed, or occurrences were skipped
 * @param print what it looked like when it was last seen: who has silenced it hears of it when that changes
 * @param last what was last said of it, in a line
 * @param told what was told, by channel
 * @param silence if somebody has acknowledged it
 * @param members of a cause that stands for many: their keys, as far as they are kept
 * @param closedAt when it was over; empty as long as it goes on
 * @since 0.1.0
 */
public record CauseRow(
        String key,
        Trouble trouble,
        String subject,
        Optional<Long> job,
        Instant openedAt,
        Instant lastAt,
        long count,
        int inARow,
        String print,
        String last,
        List<Told> told,
        Optional<Silence> silence,
        List<String> members,
        Optional<Instant> closedAt) {

    /**
     * What one channel was told of a cause.
     *
     * @param channel in full
     * @param kinds that were told by themselves
     * @param firstAt when it was told first
     * @param at when it was told last
     * @param folded how many more came since, that were not told
     * @param digestAt when those are told together; empty if there are none, and nothing is waited for
     * @param digestMillis how long repeats are gathered, in milliseconds
     * @param recovery whether it is told when it is over
     * @param within whether it was told among many, so that the end of it is too
     * @param open whether it was told that it goes on, and not yet that it is over
     */
    public record Told(
            String channel,
            Set<NoticeKind> kinds,
            Instant firstAt,
            Instant at,
            long folded,
            Optional<Instant> digestAt,
            long digestMillis,
            boolean recovery,
            boolean within,
            boolean open) {

        /** {@return what a channel was told that was told nothing so far} */
        public static Told nothing(String channel, Instant now, long digestMillis, boolean recovery) {
            return new Told(
                    channel,
                    Set.of(),
                    now,
                    now,
                    0,
                    Optional.empty(),
                    digestMillis,
                    recovery,
                    /* within= */ false,
                    /* open= */ false);
        }

        /** {@return it after some kinds were told by themselves, or none of them any more} */
        public Told kinds(Set<NoticeKind> all) {
            return new Told(channel, all, firstAt, at, folded, digestAt, digestMillis, recovery, within, open);
        }

        /** {@return it after something was told at an instant, of what goes on or is over} */
        public Told at(Instant when, boolean goesOn) {
            return new Told(channel, kinds, firstAt, when, folded, digestAt, digestMillis, recovery, within, goesOn);
        }

        /** {@return it with so many more that were not told, which are told together then} */
        public Told folded(long more, Optional<Instant> due) {
            return new Told(channel, kinds, firstAt, at, more, due, digestMillis, recovery, within, open);
        }

        /** {@return it as something that was told among many} */
        public Told amongMany() {
            return new Told(
                    channel, kinds, firstAt, at, folded, digestAt, digestMillis, recovery, /* within= */ true, open);
        }
    }

    /**
     * That somebody knows of it and wants to hear no more, until it is over or looks different.
     *
     * @param who they are
     * @param because why
     * @param at since when
     * @param until when it ends in any case
     */
    public record Silence(String who, String because, Instant at, Optional<Instant> until) {}

    /** {@return a cause that begins} */
    public static CauseRow begins(Trouble trouble, String subject, Optional<Long> job, Instant at) {
        return new CauseRow(
                trouble.of(subject),
                trouble,
                subject,
                job,
                at,
                at,
                0,
                0,
                "",
                "",
                List.of(),
                Optional.empty(),
                List.of(),
                Optional.empty());
    }

    /** {@return the job that it concerns, if it is one} */
    public Optional<JobName> jobName() {
        return trouble.concernsJob() && !subject.startsWith("/")
                ? Optional.of(JobName.parse(subject))
                : Optional.empty();
    }

    /** {@return whether it goes on} */
    public boolean isOpen() {
        return closedAt.isEmpty();
    }

    /** {@return whether somebody has silenced it} */
    public boolean isSilenced(Instant now) {
        return silence.filter(
                        each -> each.until.filter(until -> !until.isAfter(now)).isEmpty())
                .isPresent();
    }

    /** {@return when it is to be looked at next, if at all} */
    public Optional<Instant> nextAt() {
        return told.stream().flatMap(each -> each.digestAt.stream()).min(Comparator.naturalOrder());
    }

    /** {@return what a channel was told} */
    public Optional<Told> told(String channel) {
        return told.stream().filter(each -> each.channel.equals(channel)).findFirst();
    }

    /** {@return the cause, seen once more or more often} */
    public CauseRow seen(Instant at, long times, int row, String looks, String words) {
        return new CauseRow(
                key,
                trouble,
                subject,
                job,
                openedAt,
                at,
                count + times,
                row,
                looks,
                words,
                told,
                silence,
                members,
                Optional.empty());
    }

    /** {@return the cause, under another key} */
    public CauseRow under(String other) {
        return new CauseRow(
                other, trouble, subject, job, openedAt, lastAt, count, inARow, print, last, told, silence, members,
                closedAt);
    }

    /** {@return the cause, with a channel told} */
    public CauseRow telling(Told one) {
        List<Told> all = new ArrayList<>(
                Stream.concat(told.stream().filter(each -> !each.channel.equals(one.channel)), Stream.of(one))
                        .toList());
        return new CauseRow(
                key, trouble, subject, job, openedAt, lastAt, count, inARow, print, last, all, silence, members,
                closedAt);
    }

    /** {@return the cause, with all that is told replaced} */
    public CauseRow tellingAnew(List<Told> all) {
        return new CauseRow(
                key, trouble, subject, job, openedAt, lastAt, count, inARow, print, last, all, silence, members,
                closedAt);
    }

    /** {@return the cause, silenced or not} */
    public CauseRow silenced(Optional<Silence> by) {
        return new CauseRow(
                key, trouble, subject, job, openedAt, lastAt, count, inARow, print, last, told, by, members, closedAt);
    }

    /** {@return the cause, standing for others} */
    public CauseRow standingFor(List<String> keys) {
        return new CauseRow(
                key, trouble, subject, job, openedAt, lastAt, count, inARow, print, last, told, silence, keys,
                closedAt);
    }

    /** {@return the cause, over} */
    public CauseRow closed(Instant at) {
        return new CauseRow(
                key,
                trouble,
                subject,
                job,
                openedAt,
                lastAt,
                count,
                0,
                print,
                last,
                told,
                Optional.empty(),
                members,
                Optional.of(at));
    }
}
