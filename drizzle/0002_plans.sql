CREATE TABLE `plan_corrections` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`place_id` text NOT NULL,
	`subject` text NOT NULL,
	`correction` text NOT NULL,
	`created_at` integer DEFAULT (unixepoch('subsec') * 1000) NOT NULL
);
--> statement-breakpoint
CREATE INDEX `plan_corrections_place` ON `plan_corrections` (`place_id`);--> statement-breakpoint
CREATE TABLE `plans` (
	`place_id` text PRIMARY KEY NOT NULL,
	`key` text NOT NULL,
	`plan` text NOT NULL,
	`created_at` integer DEFAULT (unixepoch('subsec') * 1000) NOT NULL
);
