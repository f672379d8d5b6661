package dev.brume.internal.order;

import dev.brume.JobName;
import dev.brume.history.Change;
import dev.brume.internal.duty.Instance;
import java.util.Optional;

/**
 * A person who gives orders.
 *
 * @param host from where
 * @param who they are
 * @param because why, empty if they do not say
 */
public record Orderer(String host, String who, String because) {

    public static Orderer at(Instance instance, String who, String because) {
        return new Orderer(instance.settings().host(), who, because);
    }

    public Change change(String kind, Optional<JobName> job, String text) {
        return new Change(kind, who, host, job, Optional.empty(), Optional.empty(), text, because);
    }
}
