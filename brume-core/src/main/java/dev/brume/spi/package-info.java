/**
 * The engine's ports: a store, time, and workers; and the rows that pass between them.
 *
 * <p>The duties speak to these interfaces only. A store offers single steps on rows; which of them make
 * up a transaction, and what they mean, is decided by the duties.
 */
@NullMarked
package dev.brume.spi;

import org.jspecify.annotations.NullMarked;
