<main></main>
