"""From jobs to bars, needs, shopping list and price: `plan` is the one way in, `JobPlan` the one way out."""
