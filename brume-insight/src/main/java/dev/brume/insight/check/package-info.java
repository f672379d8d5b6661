/** What a definition will do that its author may not mean. */
@NullMarked
package dev.brume.insight.check;

import org.jspecify.annotations.NullMarked;
