package dev.brume.history;

import java.util.Optional;

/**
 * A namespace, and how many jobs are in it.
 *
 * @param name its name
 * @param jobs how many; dropped ones are none
 * @param paused how many of them are paused
 * @param allowance what they may be and use; empty if that is anything
 * @since 0.1.0
 */
public record NamespaceView(String name, int jobs, int paused, Optional<AllowanceRow> allowance) {}
