package dev.brume.internal.order;

import dev.brume.JobName;
import dev.brume.history.Change;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.text.Texts;
import java.util.Optional;

/**
 * Who gives orders, from where and why, as the change log keeps it.
 *
 * @param who they are
 * @param host from where
 * @param because why, empty if they do not say
 */
public record Orderer(String who, String host, String because) {
    private static final int LONGEST_NAME = 200;
    private static final int LONGEST_REASON = 500;

    /** Checks what is to be kept in the change log. */
    public Orderer {
        Texts.line("who", who, LONGEST_NAME);
        Texts.line("from", host, LONGEST_NAME);
        Texts.line("because", because, LONGEST_REASON);
    }

    /** {@return a person who gives orders on the host of an instance} */
    public static Orderer at(Instance instance, String who, String because) {
        return new Orderer(who, instance.settings().host(), because);
    }

    /** {@return an instance that orders by itself} */
    public static Orderer itself(Instance instance) {
        return at(instance, instance.settings().instance(), "");
    }

    /** {@return the line of an order for the change log} */
    public Change change(String kind, Optional<JobName> job, String text) {
        return new Change(kind, who, host, job, Optional.empty(), Optional.empty(), text, because);
    }
}
