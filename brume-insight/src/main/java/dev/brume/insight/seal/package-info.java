/** Checking what is on record against its seals. */
@NullMarked
package dev.brume.insight.seal;

import org.jspecify.annotations.NullMarked;
