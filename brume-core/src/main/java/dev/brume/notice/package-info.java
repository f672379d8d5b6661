/** What is told, to whom and whereto: rules, channels and notices. */
@NullMarked
package dev.brume.notice;

import org.jspecify.annotations.NullMarked;
