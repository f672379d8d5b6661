/**
 * Jobs as plain documents: maps, lists, texts, numbers and flags.
 *
 * <p>The one place that knows the keys of a definition. Definition files and the store both read and
 * write through it, each with its own text format around.
 */
@NullMarked
package dev.brume.internal.document;

import org.jspecify.annotations.NullMarked;
