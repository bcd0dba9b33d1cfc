<h1>Jolly Gate</h1>
