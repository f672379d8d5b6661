package dev.brume.spi;

/**
 * A one-off as the store holds it.
 *
 * @param id of the row
 * @param oneOff what was ordered
 * @since 0.1.0
 */
public record OneOffRow(long id, OneOffOrder oneOff) {}
