CREATE TABLE `stem_sums` (
	`item_id` text NOT NULL,
	`against` text DEFAULT '' NOT NULL,
	`key` text NOT NULL,
	`result` text NOT NULL,
	`created_at` integer DEFAULT (unixepoch('subsec') * 1000) NOT NULL,
	PRIMARY KEY(`item_id`, `against`),
	FOREIGN KEY (`item_id`) REFERENCES `items`(`id`) ON UPDATE no action ON DELETE cascade
);
