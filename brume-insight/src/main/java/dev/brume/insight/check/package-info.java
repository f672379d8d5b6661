/** Warnings about effects of a definition that its author may not intend. */
@NullMarked
package dev.brume.insight.check;

import org.jspecify.annotations.NullMarked;
