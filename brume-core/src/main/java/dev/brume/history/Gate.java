package dev.brume.history;

import dev.brume.GateKey;

/**
 * A gate that jobs share, as the store holds it.
 *
 * @param key its name
 * @param cap how many places there are
 * @param used how many are taken: live runs that name it and are not held, and ends that are not settled
 */
public record Gate(GateKey key, int cap, int used) {

    /** {@return the gate with so many more places taken} */
    public Gate taking(int more) {
        return new Gate(key, cap, used + more);
    }
}
