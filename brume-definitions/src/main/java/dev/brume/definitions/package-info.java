/**
 * Definition files: jobs in YAML or JSON, read with the place of everything that is wrong.
 *
 * <p>What the keys mean, brume-core knows; this package knows the text around it.
 */
@NullMarked
package dev.brume.definitions;

import org.jspecify.annotations.NullMarked;
