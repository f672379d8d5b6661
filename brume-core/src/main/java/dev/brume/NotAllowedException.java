package dev.brume;

import java.util.List;

/**
 * Thrown when a namespace's {@link Allowance} does not let something be defined or ordered.
 *
 * @since 0.1.0
 */
public final class NotAllowedException extends IllegalArgumentException {
    private static final long serialVersionUID = 1L;

    private final transient List<String> refusals;

    /**
     * Creates it.
     *
     * @param what was to be defined or ordered, such as {@code job 'ferry/boards'}
     * @param namespace whose allowance it is
     * @param refusals why not, a sentence each, at least one
     */
    public NotAllowedException(String what, String namespace, List<String> refusals) {
        super(what + " is not allowed in the namespace " + namespace + ": " + String.join("; ", refusals)
                + " (brume allowance " + namespace + " shows what is)");
        this.refusals = List.copyOf(refusals);
    }

    /** {@return why not, a sentence each; empty if it was serialized meanwhile} */
    public List<String> refusals() {
        return refusals == null ? List.of() : refusals;
    }
}
