/** What leaves the ledger, and what is sealed before. */
@NullMarked
package dev.brume.internal.retention;

import org.jspecify.annotations.NullMarked;
