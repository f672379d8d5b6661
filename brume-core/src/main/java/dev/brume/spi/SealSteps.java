package dev.brume.spi;

import dev.brume.history.IdRanges;
import dev.brume.history.Seal;
import dev.brume.history.SealHead;
import dev.brume.history.SealedKind;
import dev.brume.history.SealedRow;
import java.util.List;

/**
 * The steps of sealing, within one transaction. Confined to one thread.
 *
 * @since 0.1.0
 */
public interface SealSteps {

    /** Locks and returns where sealing stands; whoever seals or removes sealed lines waits here for others that do. */
    SealHead lockHead();

    /** Writes where sealing stands. */
    void head(SealHead head);

    /** Adds a seal. */
    void add(Seal seal);

    /**
     * Reads rows by number, lowest first, those that are committed.
     *
     * @param beyond those with a higher number
     * @param open and those in it
     * @param limit how many at most
     */
    List<SealedRow> rows(SealedKind kind, long beyond, IdRanges open, int limit);
}
