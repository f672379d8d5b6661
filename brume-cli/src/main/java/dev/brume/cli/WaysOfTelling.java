package dev.brume.cli;

import dev.brume.Brume;
import dev.brume.insight.watch.Vigil;
import dev.brume.notices.Senders;

/** Lets an instance of the command tell: every way of sending that there is, and all that looks. */
final class WaysOfTelling {
    private WaysOfTelling() {}

    /**
     * Adds the ways.
     *
     * @param programs whether it runs programs too
     */
    static void by(Brume.Builder builder, boolean programs) {
        Senders.ofNetwork().forEach(builder::sending);
        builder.watching(new Vigil());
        if (programs) {
            builder.sending(Senders.ofPrograms());
        }
    }
}
