package dev.brume.port;

import dev.brume.seal.IdRanges;
import dev.brume.seal.Seal;
import dev.brume.seal.SealHead;
import java.util.List;

/** The steps of sealing, within one transaction. Confined to one thread. */
public interface SealSteps {

    /** Locks and returns where sealing stands; whoever seals or removes sealed lines waits here for others that do. */
    SealHead lockHead();

    /** Writes where sealing stands. */
    void head(SealHead head);

    /** Adds a seal. */
    void add(Seal seal);

    /**
     * Reads ledger lines by run id, those that are committed.
     *
     * @param beyond those with a higher id
     * @param open and those in it
     * @param limit how many at most
     */
    List<RunView> lines(long beyond, IdRanges open, int limit);

    /**
     * Reads lines of the change log by number, those that are committed.
     *
     * @see #lines
     */
    List<ChangeView> changes(long beyond, IdRanges open, int limit);
}
