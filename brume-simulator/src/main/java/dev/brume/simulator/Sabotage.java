package dev.brume.simulator;

import dev.brume.spi.Transaction;

/** Breaks duties or the store on purpose, to prove that the checker notices. */
public interface Sabotage {
    /** Breaks nothing. */
    Sabotage NONE = new Sabotage() {};

    /** {@return the steps as broken duties would take them} */
    default Transaction ofTheDuties(Transaction tx) {
        return tx;
    }

    /** {@return the steps as a broken store would carry them out} */
    default Transaction ofTheStore(Transaction tx) {
        return tx;
    }
}
