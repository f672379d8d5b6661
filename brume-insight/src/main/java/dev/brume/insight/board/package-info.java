/** What was owed and what became of it on a line of time, and what is coming. */
@NullMarked
package dev.brume.insight.board;

import org.jspecify.annotations.NullMarked;
