package dev.brume.history;

import dev.brume.GateKey;

/**
 * A gate that jobs share, as the store holds it.
 *
 * @param key its name
 * @param cap how many places there are
 * @param used how many are taken: live runs that name it and do not wait, and ends that are not settled
 * @since 0.1.0
 */
public record Gate(GateKey key, int cap, int used) {

    /** {@return the gate with so many more places taken} */
    public Gate taking(int more) {
        return new Gate(key, cap, used + more);
    }
}
