/** Definitions that somebody is working on: as a form, as a document, and beside what is in force. */
@NullMarked
package dev.brume.http.internal.draft;

import org.jspecify.annotations.NullMarked;
