package dev.brume.duties;

import dev.brume.JobKey;
import dev.brume.port.Change;
import java.util.Optional;

/**
 * A person who gives orders.
 *
 * @param host from where
 * @param who they are
 * @param because why, empty if they do not say
 */
record Orderer(String host, String who, String because) {

    static Orderer at(Instance instance, String who, String because) {
        return new Orderer(instance.settings().host(), who, because);
    }

    Change change(String kind, Optional<JobKey> job, String text) {
        return new Change(kind, who, host, job, Optional.empty(), Optional.empty(), text, because);
    }
}
