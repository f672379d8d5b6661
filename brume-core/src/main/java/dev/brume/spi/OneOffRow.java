package dev.brume.spi;

/**
 * A one-off as the store holds it.
 *
 * @param oneOff what was ordered
 * @param made whether its run has been made
 * @since 0.1.0
 */
public record OneOffRow(OneOffOrder oneOff, boolean made) {}
