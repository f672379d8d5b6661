/** Seals over the ledger and the change log: digests that show whether a line was altered, added or removed since. */
@NullMarked
package dev.brume.seal;

import org.jspecify.annotations.NullMarked;
