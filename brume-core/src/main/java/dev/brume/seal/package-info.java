/** Seals over the ledger and the change log: digests that show whether a line was altered, added or removed since. */
package dev.brume.seal;
