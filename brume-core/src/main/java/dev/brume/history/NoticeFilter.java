package dev.brume.history;

import java.util.Optional;
import java.util.Set;

/**
 * Which notices somebody wants to see, newest first. Immutable: each method returns another one.
 *
 * @param limit how many at most
 * @param states that they are in; empty for any
 * @param cause that they belong to
 * @param channel that they are sent to
 * @param before those with a lower number
 * @since 0.1.0
 */
public record NoticeFilter(
        int limit, Set<NoticeState> states, Optional<String> cause, Optional<String> channel, Optional<Long> before) {

    /** {@return the newest} */
    public static NoticeFilter newest(int limit) {
        return new NoticeFilter(limit, Set.of(), Optional.empty(), Optional.empty(), Optional.empty());
    }

    /** {@return those in some states} */
    public NoticeFilter in(Set<NoticeState> some) {
        return new NoticeFilter(limit, Set.copyOf(some), cause, channel, before);
    }

    /** {@return those of a cause} */
    public NoticeFilter of(String key) {
        return new NoticeFilter(limit, states, Optional.of(key), channel, before);
    }

    /** {@return those to a channel} */
    public NoticeFilter to(String name) {
        return new NoticeFilter(limit, states, cause, Optional.of(name), before);
    }

    /** {@return whether it lets a notice through} */
    public boolean letsThrough(NoticeRow row) {
        return (states.isEmpty() || states.contains(row.state()))
                && cause.filter(key -> !key.equals(row.notice().cause())).isEmpty()
                && channel.filter(name -> !name.equals(row.notice().channel())).isEmpty()
                && before.filter(number -> row.number() >= number).isEmpty();
    }

    /** {@return those before a number} */
    public NoticeFilter before(long number) {
        return new NoticeFilter(limit, states, cause, channel, Optional.of(number));
    }
}
