PRAGMA foreign_keys=OFF;--> statement-breakpoint
CREATE TABLE `__new_alignments` (
	`item_id` text NOT NULL,
	`against` text DEFAULT '' NOT NULL,
	`key` text NOT NULL,
	`result` text NOT NULL,
	`created_at` integer DEFAULT (unixepoch('subsec') * 1000) NOT NULL,
	PRIMARY KEY(`item_id`, `against`),
	FOREIGN KEY (`item_id`) REFERENCES `items`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
INSERT INTO `__new_alignments`("item_id", "against", "key", "result", "created_at") SELECT "item_id", '', "key", "result", "created_at" FROM `alignments`;--> statement-breakpoint
DROP TABLE `alignments`;--> statement-breakpoint
ALTER TABLE `__new_alignments` RENAME TO `alignments`;--> statement-breakpoint
PRAGMA foreign_keys=ON;--> statement-breakpoint
CREATE TABLE `__new_comparisons` (
	`item_id` text NOT NULL,
	`against` text DEFAULT '' NOT NULL,
	`key` text NOT NULL,
	`result` text NOT NULL,
	`created_at` integer DEFAULT (unixepoch('subsec') * 1000) NOT NULL,
	PRIMARY KEY(`item_id`, `against`),
	FOREIGN KEY (`item_id`) REFERENCES `items`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
INSERT INTO `__new_comparisons`("item_id", "against", "key", "result", "created_at") SELECT "item_id", '', "key", "result", "created_at" FROM `comparisons`;--> statement-breakpoint
DROP TABLE `comparisons`;--> statement-breakpoint
ALTER TABLE `__new_comparisons` RENAME TO `comparisons`;--> statement-breakpoint
CREATE TABLE `__new_lenses` (
	`item_id` text NOT NULL,
	`against` text DEFAULT '' NOT NULL,
	`key` text NOT NULL,
	`result` text NOT NULL,
	`created_at` integer DEFAULT (unixepoch('subsec') * 1000) NOT NULL,
	PRIMARY KEY(`item_id`, `against`),
	FOREIGN KEY (`item_id`) REFERENCES `items`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
INSERT INTO `__new_lenses`("item_id", "against", "key", "result", "created_at") SELECT "item_id", '', "key", "result", "created_at" FROM `lenses`;--> statement-breakpoint
DROP TABLE `lenses`;--> statement-breakpoint
ALTER TABLE `__new_lenses` RENAME TO `lenses`;--> statement-breakpoint
CREATE TABLE `__new_plans` (
	`item_id` text NOT NULL,
	`against` text DEFAULT '' NOT NULL,
	`key` text NOT NULL,
	`result` text NOT NULL,
	`created_at` integer DEFAULT (unixepoch('subsec') * 1000) NOT NULL,
	PRIMARY KEY(`item_id`, `against`),
	FOREIGN KEY (`item_id`) REFERENCES `items`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
INSERT INTO `__new_plans`("item_id", "against", "key", "result", "created_at") SELECT "item_id", '', "key", "result", "created_at" FROM `plans`;--> statement-breakpoint
DROP TABLE `plans`;--> statement-breakpoint
ALTER TABLE `__new_plans` RENAME TO `plans`;