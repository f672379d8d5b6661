package dev.brume.internal.define;

import dev.brume.DefinitionSet;
import dev.brume.internal.duty.Instance;
import java.util.OptionalLong;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Sees to it that an older revision of a source of definitions never takes the place of a newer one. */
final class Revisions {
    private static final Logger LOG = LoggerFactory.getLogger(Revisions.class);

    private final Instance instance;

    Revisions(Instance instance) {
        this.instance = instance;
    }

    /** Notes the revision of a source; false if a higher one is in force. */
    boolean admit(DefinitionSet set, String who) {
        if (set.revision().isEmpty()) {
            return true;
        }
        long given = set.revision().getAsLong();
        OptionalLong known = instance.transact(tx -> tx.revision(set.sourceInFull()));
        if (known.isEmpty() || known.getAsLong() < given) {
            known = instance.transact(tx -> {
                tx.lockDefinitions();
                OptionalLong inForce = tx.revision(set.sourceInFull());
                if (inForce.isEmpty() || inForce.getAsLong() < given) {
                    tx.revision(set.sourceInFull(), given, who);
                }
                return tx.revision(set.sourceInFull());
            });
        }
        boolean outdated = known.getAsLong() > given;
        if (outdated) {
            LOG.info(
                    "{}: revision {} of {} is older than revision {}, which is in force; nothing of it was applied (to go"
                            + " back to it: brume definitions accept {})",
                    instance.settings().instance(),
                    given,
                    set.source(),
                    known.getAsLong(),
                    set.sourceInFull());
        }
        return !outdated;
    }
}
