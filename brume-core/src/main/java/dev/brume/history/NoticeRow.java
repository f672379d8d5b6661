package dev.brume.history;

import dev.brume.notice.Notice;
import java.time.Instant;
import java.util.Optional;

/**
 * A notice and how its delivery stands.
 *
 * @param number rises with every notice, so that those of a cause are sent in order
 * @param notice what is told
 * @param state where it stands
 * @param attempts how often it was tried to send it
 * @param nextAt when it is sent next, at the earliest
 * @param giveUpAt when it is too old to be sent
 * @param problem what went wrong last, or what is to be known of how it arrived
 * @param lease who is sending it
 * @param settledAt when it was delivered or given up
 * @since 0.1.0
 */
public record NoticeRow(
        long number,
        Notice notice,
        NoticeState state,
        int attempts,
        Instant nextAt,
        Instant giveUpAt,
        Optional<String> problem,
        Optional<Lease> lease,
        Optional<Instant> settledAt) {

    /**
     * Who is sending a notice, and for how long nobody else may.
     *
     * @param holder a name that no other process has
     */
    public record Lease(String holder, Instant until) {}

    /** {@return a notice that is yet to be sent} */
    public static NoticeRow waiting(Notice notice, Instant nextAt, Instant giveUpAt) {
        return new NoticeRow(
                0,
                notice,
                NoticeState.WAITING,
                0,
                nextAt,
                giveUpAt,
                Optional.empty(),
                Optional.empty(),
                Optional.empty());
    }

    /** {@return it under its number} */
    public NoticeRow numbered(long its) {
        return new NoticeRow(its, notice, state, attempts, nextAt, giveUpAt, problem, lease, settledAt);
    }

    /** {@return it, leased} */
    public NoticeRow leased(String holder, Instant until) {
        return new NoticeRow(
                number,
                notice,
                state,
                attempts,
                nextAt,
                giveUpAt,
                problem,
                Optional.of(new Lease(holder, until)),
                settledAt);
    }

    /** {@return it after a try that the receiver has answered} */
    public NoticeRow delivered(Instant at, Optional<String> remark) {
        return new NoticeRow(
                number,
                notice,
                NoticeState.DELIVERED,
                attempts + 1,
                nextAt,
                giveUpAt,
                remark,
                Optional.empty(),
                Optional.of(at));
    }

    /** {@return it after a try that failed, to be sent again later} */
    public NoticeRow failed(Instant again, String why) {
        return new NoticeRow(
                number,
                notice,
                NoticeState.WAITING,
                attempts + 1,
                again,
                giveUpAt,
                Optional.of(why),
                Optional.empty(),
                Optional.empty());
    }

    /** {@return it after the last try, successful to nobody} */
    public NoticeRow givenUp(Instant at, String why) {
        return new NoticeRow(
                number,
                notice,
                NoticeState.UNDELIVERED,
                attempts + 1,
                nextAt,
                giveUpAt,
                Optional.of(why),
                Optional.empty(),
                Optional.of(at));
    }

    /** {@return it waiting anew, as if it had never been tried} */
    public NoticeRow again(Instant now, Instant newGiveUpAt) {
        return new NoticeRow(
                number,
                notice,
                NoticeState.WAITING,
                0,
                now,
                newGiveUpAt,
                Optional.empty(),
                Optional.empty(),
                Optional.empty());
    }
}
