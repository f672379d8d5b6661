package dev.brume.spi;

import java.time.Instant;
import java.util.Optional;
import java.util.Set;

/**
 * The row that everything about notices is decided under.
 *
 * @param version rises whenever channels or rules change
 * @param wants what is noted when it happens
 * @param watchedAt when somebody last looked for what does not happen by itself
 * @param tidiedAt when what is old was last removed
 * @since 0.1.0
 */
public record NoticeHead(
        long version, Set<Notable.Kind> wants, Optional<Instant> watchedAt, Optional<Instant> tidiedAt) {
    /** Before anybody said anything. */
    public static final NoticeHead NONE = new NoticeHead(0, Set.of(), Optional.empty(), Optional.empty());

    /** {@return whether any rule is in force, or what one decided may still wait} */
    public boolean isAny() {
        return version > 0;
    }

    /** {@return the head after a change of rules} */
    public NoticeHead changed(Set<Notable.Kind> noted) {
        return new NoticeHead(version + 1, Set.copyOf(noted), watchedAt, tidiedAt);
    }

    /** {@return the head, watched at an instant} */
    public NoticeHead watched(Instant at) {
        return new NoticeHead(version, wants, Optional.of(at), tidiedAt);
    }

    /** {@return the head, tidied at an instant} */
    public NoticeHead tidied(Instant at) {
        return new NoticeHead(version, wants, watchedAt, Optional.of(at));
    }
}
