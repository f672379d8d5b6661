/** What a set of definitions would change on what is in force. Computation only: it is given what there is, and a time. */
@NullMarked
package dev.brume.insight.diff;

import org.jspecify.annotations.NullMarked;
