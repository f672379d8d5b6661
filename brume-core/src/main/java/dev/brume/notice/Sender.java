package dev.brume.notice;

import java.util.List;

/**
 * Sends notices in some of the ways that there are. Safe for use by many threads.
 *
 * @since 0.1.0
 */
public interface Sender extends AutoCloseable {

    /** {@return whether it can send so} */
    boolean sends(Way way);

    /** {@return how many notices of one channel it can send together, from 1} */
    default int together(Way way) {
        return 1;
    }

    /**
     * Sends notices of one channel; returns once the receiver has said that it has them, or within the channel's time limit.
     *
     * @param notices of that channel, at least one, oldest first
     * @return what is to be known although they arrived, such as that one of several addresses was refused; empty if nothing is
     * @throws RefusedException if trying again would change nothing
     * @throws Exception if they may not have arrived; they are sent again later, under the same ids
     */
    String send(Channel channel, List<Notice> notices) throws Exception;

    @Override
    default void close() {
        // Most keep nothing open.
    }
}
